/** The story reel beside the Stage, in step with the sound: the sound is the clock, the picture follows. */

/** Further off than this while playing, the picture is put right at once. */
const JUMP_S = 0.25;
/** How fast a small lag is made up. */
const CATCH_UP = 0.06;

export class ReelView {
  /**
   * @param {HTMLElement} root
   * @param {{url: string, name: string, fromUs: number, durationUs: number}} reel
   * @param {import("./model.js").Shot} shot
   * @param {import("./transport.js").Transport} transport
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, reel, shot, transport, scope) {
    this.root = root;
    this.reel = reel;
    this.shot = shot;
    this.transport = transport;
    this.video = /** @type {HTMLVideoElement} */ (root.querySelector("video"));
    this.video.muted = true;
    this.video.preload = "auto";
    this.video.src = reel.url;
    scope.add(transport.playing.follow((playing) => (playing ? this.play() : this.hold())));
    scope.add(transport.frame.follow(() => (transport.playing.value ? this.keepUp() : this.hold())));
    scope.add(transport.speed.follow(() => this.keepUp()));
    scope.listen(this.video, "loadeddata", () => this.hold());
    scope.listen(this.video, "seeked", () => this.hold());
    scope.add(() => {
      this.video.pause();
      this.video.removeAttribute("src");
    });
  }

  /** The reel's time that is due at a time of the shot, in seconds; out of its span there is nothing to see. */
  dueS(/** @type {number} */ shotS) {
    return shotS + this.reel.fromUs / 1e6;
  }

  get isOver() {
    const due = this.dueS(this.transport.audio.currentTime);
    return due < 0 || due * 1e6 >= this.reel.durationUs;
  }

  play() {
    this.root.classList.toggle("over", this.isOver);
    if (this.isOver) return;
    this.video.currentTime = this.dueS(this.transport.audio.currentTime);
    this.video.playbackRate = this.transport.speed.value;
    this.video.play().catch(() => {});
  }

  /** While playing: a small lag is made up by speed, a large one at once. */
  keepUp() {
    if (!this.transport.playing.value) return;
    this.root.classList.toggle("over", this.isOver);
    if (this.isOver) {
      this.video.pause();
      return;
    }
    if (this.video.paused) this.play();
    if (this.video.seeking) return;
    const lag = this.dueS(this.transport.audio.currentTime) - this.video.currentTime;
    const speed = this.transport.speed.value;
    if (Math.abs(lag) > JUMP_S) this.video.currentTime += lag;
    const half = this.shot.rate.firstUs(1) / 4e6;
    this.video.playbackRate = speed * (Math.abs(lag) < half ? 1 : 1 + Math.sign(lag) * CATCH_UP);
  }

  /** Standing still: the very frame, from the middle of its time, so that rounding cannot show its neighbour. */
  hold() {
    if (this.transport.playing.value) return;
    this.video.pause();
    const { rate } = this.shot;
    const frame = this.transport.frame.value;
    const due = this.dueS((rate.firstUs(frame) + rate.firstUs(frame + 1)) / 2e6);
    this.root.classList.toggle("over", due < 0 || due * 1e6 >= this.reel.durationUs);
    if (!this.video.seeking && Math.abs(this.video.currentTime - due) > 0.001) this.video.currentTime = Math.max(0, due);
  }
}
