/** Waveform peaks, loaded level by level, for drawing at any zoom. */
export class Peaks {
  /** @param {{peaks: string[], peaksPerSecond: number, peaksFactor: number}} sound */
  constructor(sound) {
    this.sound = sound;
    /** @type {Map<number, Int8Array | null>} */
    this.levels = new Map();
    /** The number of loaded levels, which invalidates cached drawings. */
    this.came = 0;
    this.onArrival = () => {};
  }

  /** The level whose bins are just finer than a pixel, if loaded; requests it otherwise. */
  level(/** @type {number} */ usPerPixel) {
    const { peaks, peaksPerSecond, peaksFactor } = this.sound;
    let wanted = 0;
    while (wanted < peaks.length - 1 && (1e6 / peaksPerSecond) * peaksFactor ** (wanted + 1) <= usPerPixel) wanted += 1;
    if (!this.levels.has(wanted)) this.fetch(wanted);
    for (let at = wanted; at < peaks.length; at += 1) if (this.levels.get(at)) return at;
    for (let at = wanted; at >= 0; at -= 1) if (this.levels.get(at)) return at;
    return -1;
  }

  /** Set another sound; the old peaks are shown until the new ones are loaded. */
  renew(/** @type {Peaks["sound"]} */ sound) {
    this.sound = sound;
    for (const level of this.levels.keys()) this.fetch(level);
  }

  async fetch(/** @type {number} */ level) {
    const url = this.sound.peaks[level];
    if (!this.levels.has(level)) this.levels.set(level, null);
    const answer = await fetch(url);
    if (!answer.ok || url !== this.sound.peaks[level]) return;
    this.levels.set(level, new Int8Array(await answer.arrayBuffer()));
    this.top = 0;
    this.came += 1;
    this.onArrival();
  }

  /**
   * The lowest and highest value (-127 to 127) between two times.
   * @param {number} level
   * @param {number} fromUs
   * @param {number} toUs
   */
  range(level, fromUs, toUs) {
    const data = this.levels.get(level);
    if (!data) return [0, 0];
    const perUs = this.sound.peaksPerSecond / this.sound.peaksFactor ** level / 1e6;
    const first = Math.max(0, Math.floor(fromUs * perUs));
    const last = Math.min(data.length / 2, Math.max(first + 1, Math.ceil(toUs * perUs)));
    let low = 127;
    let high = -127;
    for (let at = first; at < last; at += 1) {
      if (data[2 * at] < low) low = data[2 * at];
      if (data[2 * at + 1] > high) high = data[2 * at + 1];
    }
    return low > high ? [0, 0] : [low, high];
  }

  /** The largest value of the whole sound, so that a quiet take is drawn as large as a loud one. */
  get loudest() {
    if (this.top) return this.top;
    const coarse = this.levels.get(this.sound.peaks.length - 1);
    if (!coarse) return 127;
    let top = 8;
    for (const value of coarse) top = Math.max(top, Math.abs(value));
    this.top = top;
    return top;
  }
}
