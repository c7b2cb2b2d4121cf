/**
 * Playing: the sound element is the clock, and the frame due is the one that covers its time.
 */
import { Signal } from "../lib/signal.js";

export class Transport {
  /**
   * @param {import("./model.js").Shot} shot
   * @param {HTMLAudioElement} audio
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(shot, audio, scope) {
    this.shot = shot;
    this.audio = audio;
    this.frame = new Signal(0);
    this.playing = new Signal(false);
    this.speed = new Signal(1);
    this.loop = new Signal(false);
    this.failed = new Signal("");
    audio.preload = "auto";
    audio.preservesPitch = true;
    scope.listen(audio, "play", () => this.started());
    scope.listen(audio, "pause", () => this.stopped());
    scope.listen(audio, "ended", () => this.ended());
    scope.listen(audio, "error", () => {
      this.failed.value = "The sound could not be fetched. Check the connection and reload the page.";
    });
    scope.add(() => {
      audio.pause();
      cancelAnimationFrame(this.tick);
    });
    this.tick = 0;
    if (shot.sound.url) audio.src = shot.sound.url;
  }

  /** Another sound in place of this one, from where the playhead is. */
  renew(/** @type {string} */ url) {
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
  }

  /** 100, 50, 25 %, and again. */
  nextSpeed() {
    const speeds = [1, 0.5, 0.25];
    this.setSpeed(speeds[(speeds.indexOf(this.speed.value) + 1) % speeds.length]);
  }

  /** The frame due at the sound clock. */
  get dueFrame() {
    return this.shot.clampFrame(this.shot.rate.frameAt(Math.round(this.audio.currentTime * 1e6)));
  }

  async play() {
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
      this.frame.value = this.dueFrame;
      this.tick = requestAnimationFrame(follow);
    };
    cancelAnimationFrame(this.tick);
    follow();
  }

  stopped() {
    cancelAnimationFrame(this.tick);
    this.playing.value = false;
    this.frame.value = this.dueFrame;
  }

  ended() {
    if (this.loop.value) {
      this.seek(0);
      this.play();
    }
  }

  /** Put the playhead on a frame. */
  seek(/** @type {number} */ frame) {
    const target = this.shot.clampFrame(frame);
    this.audio.currentTime = this.shot.rate.firstUs(target) / 1e6;
    this.frame.value = target;
  }

  /** Step by frames; stepping stops the sound first. */
  step(/** @type {number} */ frames) {
    if (this.playing.value) this.pause();
    this.seek(this.frame.value + frames);
  }

  setSpeed(/** @type {number} */ speed) {
    this.speed.value = speed;
    this.audio.playbackRate = speed;
  }
}
