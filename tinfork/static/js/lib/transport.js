/**
 * Playback: the audio element is the clock, and the current frame is the one that covers its time.
 */
import { gettext } from "./gettext.js";
import { Signal } from "./signal.js";

/**
 * The number of frames, the rate, and the URL of the sound.
 * @typedef {{frames: number, rate: import("./clock.js").FrameRate, clampFrame: (frame: number) => number, sound: {url: string}}} Playable
 */

export class Transport {
  /**
   * @param {Playable} shot
   * @param {HTMLAudioElement} audio
   * @param {import("./scope.js").Scope} scope
   */
  constructor(shot, audio, scope) {
    this.shot = shot;
    this.audio = audio;
    this.frame = new Signal(0);
    this.playing = new Signal(false);
    this.speed = new Signal(1);
    this.loop = new Signal(false);
    this.failed = new Signal("");
    /** @type {{first: number, end: number} | null} the frames that are played, where not all are */
    this.span = null;
    /** The frame to which the playhead returns after they were played. */
    this.home = -1;
    /** @type {import("../desk/hearing.js").Hearing | null} what sounds single frames */
    this.hearing = null;
    /**
     * A step before playback, like a count-in, which then calls `go`. @type {(go: () => void) => void}
     */
    this.lead = (go) => go();
    audio.preload = "auto";
    audio.preservesPitch = true;
    scope.listen(audio, "play", () => this.started());
    scope.listen(audio, "pause", () => this.stopped());
    scope.listen(audio, "ended", () => this.ended());
    scope.listen(audio, "error", () => {
      // Firefox reports a missing sound output as a decoding error.
      this.failed.value =
        audio.error?.code === MediaError.MEDIA_ERR_DECODE
          ? gettext(
              "The browser could not play the sound. Check the sound output of this computer and reload the page.",
            )
          : gettext("The sound could not be loaded. Check the connection and reload the page.");
    });
    scope.add(() => {
      audio.pause();
      cancelAnimationFrame(this.tick);
    });
    this.tick = 0;
    if (shot.sound.url) audio.src = shot.sound.url;
  }

  /** Replace the sound and continue at the playhead. */
  renew(/** @type {string} */ url) {
    const { span, home } = this;
    const plays = !this.audio.paused;
    this.pause();
    const frame = this.shot.clampFrame(this.frame.value);
    this.failed.value = "";
    if (url) {
      this.audio.src = url;
      this.audio.currentTime = this.shot.rate.firstUs(frame) / 1e6;
    } else {
      this.audio.removeAttribute("src");
    }
    this.frame.value = frame;
    if (!plays || !url) return;
    // The pause event comes first: restore what it cleared.
    this.audio.addEventListener("play", () => ([this.span, this.home] = [span, home]), { once: true });
    this.start();
  }

  /** Cycle through 100, 50 and 25 %. */
  nextSpeed() {
    const speeds = [1, 0.5, 0.25];
    this.setSpeed(speeds[(speeds.indexOf(this.speed.value) + 1) % speeds.length]);
  }

  /** The frame at the sound's time. */
  get dueFrame() {
    return this.shot.clampFrame(this.shot.rate.frameAt(Math.round(this.audio.currentTime * 1e6)));
  }

  /** Play frames `[first, end)`, repeatedly if Loop is on; then the playhead returns. */
  playSpan(
    /** @type {number} */ first,
    /** @type {number} */ end,
    home = this.home >= 0 ? this.home : this.frame.value,
  ) {
    this.seek(first);
    this.span = { first, end: Math.min(end, this.shot.frames) };
    this.home = home;
    this.lead(() => this.start());
  }

  play() {
    this.span = null;
    this.home = -1;
    this.lead(() => this.start());
  }

  async start() {
    if (this.frame.value >= this.shot.frames - 1) this.seek(0);
    this.audio.playbackRate = this.speed.value;
    try {
      await this.audio.play();
    } catch {
      this.playing.value = false;
    }
  }

  pause() {
    this.audio.pause();
  }

  toggle() {
    if (this.playing.value) this.pause();
    else this.play();
  }

  started() {
    this.playing.value = true;
    const follow = () => {
      const due = this.dueFrame;
      if (
        this.span &&
        (due >= this.span.end || this.audio.currentTime * 1e6 >= this.shot.rate.firstUs(this.span.end))
      ) {
        this.spanEnds();
        return;
      }
      this.frame.value = due;
      this.tick = requestAnimationFrame(follow);
    };
    cancelAnimationFrame(this.tick);
    follow();
  }

  stopped() {
    cancelAnimationFrame(this.tick);
    this.playing.value = false;
    if (!this.span) this.frame.value = this.dueFrame;
    // Stopping in the middle leaves the playhead there.
    if (!this.audio.ended) this.home = -1;
  }

  /** Handle the end of a span. */
  spanEnds() {
    const { span, home } = this;
    if (!span) return;
    if (this.loop.value) {
      this.audio.currentTime = this.shot.rate.firstUs(span.first) / 1e6;
      this.frame.value = span.first;
      // At the end of the sound the element stops by itself.
      if (this.audio.paused) this.start();
      else this.tick = requestAnimationFrame(() => this.started());
      return;
    }
    this.pause();
    if (home >= 0) this.seek(home);
    this.home = -1;
  }

  ended() {
    if (this.span) this.spanEnds();
    else if (this.loop.value) {
      this.seek(0);
      this.play();
    }
  }

  /** Put the playhead on a frame. */
  seek(/** @type {number} */ frame) {
    const target = this.shot.clampFrame(frame);
    if (this.span && !(this.span.first <= target && target < this.span.end)) this.span = null;
    this.audio.currentTime = this.shot.rate.firstUs(target) / 1e6;
    this.frame.value = target;
  }

  /** Put the playhead on a frame and play the frame once. */
  scrub(/** @type {number} */ frame) {
    const isPlaying = this.playing.value;
    if (frame === this.frame.value && this.hearing?.count) return;
    this.seek(frame);
    if (!isPlaying) this.hearing?.frame(this.frame.value);
  }

  /** Step by frames; this stops playback, and plays each frame. */
  step(/** @type {number} */ frames) {
    if (this.playing.value) this.pause();
    this.seek(this.frame.value + frames);
    this.hearing?.frame(this.frame.value);
  }

  setSpeed(/** @type {number} */ speed) {
    this.speed.value = speed;
    this.audio.playbackRate = speed;
  }
}
