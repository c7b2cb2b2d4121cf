/** Playing one sound at a time, at an even loudness, without changing the file. */
export class Listening {
  constructor() {
    this.audio = new Audio();
    this.audio.preload = "none";
    this.url = "";
    this.toS = Infinity;
    this.onTime = (/** @type {number} */ _seconds) => {};
    this.onState = (/** @type {boolean} */ _playing) => {};
    this.audio.addEventListener("play", () => {
      this.onState(true);
      this.follow();
    });
    for (const type of ["pause", "ended", "error"]) this.audio.addEventListener(type, () => this.onState(false));
  }

  /**
   * @param {string} url
   * @param {{gainDb?: number, fromS?: number, toS?: number}} [options]
   */
  async play(url, { gainDb = 0, fromS = 0, toS = Infinity } = {}) {
    this.setGain(gainDb);
    if (this.url !== url) {
      this.audio.src = url;
      this.url = url;
    }
    this.toS = toS;
    this.audio.currentTime = fromS;
    try {
      await this.audio.play();
    } catch {
      this.onState(false);
    }
  }

  stop() {
    this.audio.pause();
  }

  /** Amplifying needs an audio context, which the browser allows only after a press. */
  setGain(/** @type {number} */ gainDb) {
    if (!this.gain) {
      this.context = new AudioContext();
      this.gain = this.context.createGain();
      this.context.createMediaElementSource(this.audio).connect(this.gain);
      this.gain.connect(this.context.destination);
    }
    this.context?.resume();
    this.gain.gain.value = 10 ** (gainDb / 20);
  }

  follow() {
    if (this.audio.paused) return;
    if (this.audio.currentTime >= this.toS) {
      this.stop();
      return;
    }
    this.onTime(this.audio.currentTime);
    requestAnimationFrame(() => this.follow());
  }
}
