/** The story reel beside the Stage, in sync with the sound: the sound is the clock, and the picture follows. */

/** A larger lag than this during playback is corrected by seeking. */
const JUMP_S = 0.6;
/** The time in which a lag is made up, and the most by which the picture's speed changes for it. */
const MEND_S = 0.2;
const MOST = 0.8;
/** How long the last picture of a film stays after its end, so that a recording is visible where it was stopped. */
const LINGER_S = 0.5;
/** The slowest speed of browsers. */
const SLOWEST = 0.0625;

export class ReelView {
  /**
   * @param {HTMLElement} root
   * @param {{url: string, name: string, fromUs: number, durationUs: number}} reel
   * @param {import("./transport.js").Playable} shot
   * @param {import("./transport.js").Transport} transport
   * @param {import("./scope.js").Scope} scope
   */
  constructor(root, reel, shot, transport, scope) {
    this.root = root;
    this.reel = reel;
    this.shot = shot;
    this.transport = transport;
    this.watching = 0;
    this.startedS = -1;
    this.video = /** @type {HTMLVideoElement} */ (root.querySelector("video"));
    this.video.muted = true;
    this.video.preload = "auto";
    this.video.src = reel.url;
    /** The time of the visible frame. */
    this.shownS = 0;
    const watch = () => {
      this.watching = this.video.requestVideoFrameCallback((_now, { mediaTime }) => {
        this.shownS = mediaTime;
        watch();
      });
    };
    watch();
    scope.add(() => this.video.cancelVideoFrameCallback(this.watching));
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

  /** The reel's time at a time of the shot, in seconds; outside its span nothing is shown. */
  dueS(/** @type {number} */ shotS) {
    return shotS + this.reel.fromUs / 1e6;
  }

  get lastS() {
    return this.reel.durationUs / 1e6;
  }

  /** Whether the reel has not begun or is over. @param {number} due a time of the reel */
  hideOutside(due) {
    const isOutside = due < 0 || due > this.lastS + LINGER_S;
    this.root.classList.toggle("over", isOutside);
    return isOutside;
  }

  play() {
    this.startedS = this.transport.audio.currentTime;
    this.hideOutside(this.dueS(this.startedS));
    this.video.playbackRate = this.transport.speed.value;
  }

  /** During playback: make up a small lag by speed, a large one by seeking. */
  keepUp() {
    if (!this.transport.playing.value) return;
    const now = this.dueS(this.transport.audio.currentTime);
    // Do not play a reel that is over: it would start again.
    if (this.hideOutside(now) || now >= this.lastS) {
      this.video.pause();
      return;
    }
    // The sound starts with a delay: the picture waits for it.
    if (this.transport.audio.currentTime === this.startedS) return;
    if (this.video.paused) this.video.play().catch(() => {});
    if (this.video.seeking) return;
    const speed = this.transport.speed.value;
    const lag = this.lagS;
    if (Math.abs(lag) > JUMP_S * speed)
      this.video.currentTime = this.dueS(this.transport.audio.currentTime) + 0.1 * speed;
    this.video.playbackRate = Math.max(SLOWEST, speed * (1 + Math.max(-MOST, Math.min(MOST, lag / (MEND_S * speed)))));
  }

  /**
   * The lag of the visible frame: the video's own clock runs ahead of what is shown.
   */
  get lagS() {
    const frameS = this.shot.rate.firstUs(1) / 1e6;
    const due = this.dueS(this.transport.audio.currentTime);
    return due - (this.shownS + frameS / 2);
  }

  /** Paused: seek to the middle of the frame, so that rounding cannot show its neighbour. */
  hold() {
    if (this.transport.playing.value) return;
    this.video.pause();
    const { rate } = this.shot;
    const frame = this.transport.frame.value;
    const due = this.dueS((rate.firstUs(frame) + rate.firstUs(frame + 1)) / 2e6);
    if (this.hideOutside(due) || this.video.seeking) return;
    // Seeking past the end ends at the end and fires an event, which would cause the same seek for ever.
    const wanted = Math.min(due, Math.max(0, this.lastS - 0.002));
    if (Math.abs(this.video.currentTime - wanted) > 0.001) this.video.currentTime = wanted;
  }
}
