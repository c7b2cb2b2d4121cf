/** The visible span of time in a lane, and positions of times in it (pixels). */
export class Viewport {
  /**
   * @param {number} durationUs
   * @param {number} spanUs
   */
  constructor(durationUs, spanUs) {
    this.durationUs = durationUs;
    this.width = 1;
    this.startUs = 0;
    this.spanUs = Math.min(spanUs, Math.max(durationUs, Viewport.LEAST_US));
  }

  get endUs() {
    return this.startUs + this.spanUs;
  }

  x(/** @type {number} */ timeUs) {
    return ((timeUs - this.startUs) / this.spanUs) * this.width;
  }

  timeAt(/** @type {number} */ x) {
    return this.startUs + (x / this.width) * this.spanUs;
  }

  /** Move the start, clamped to the sound. */
  moveTo(/** @type {number} */ startUs) {
    this.startUs = Math.max(0, Math.min(startUs, this.durationUs - this.spanUs));
  }

  /** Zoom by a factor, keeping the time under `x` where it is. */
  zoom(/** @type {number} */ factor, /** @type {number} */ x) {
    const fixed = this.timeAt(x);
    const most = Math.max(this.durationUs, Viewport.LEAST_US);
    this.spanUs = Math.max(Viewport.LEAST_US, Math.min(most, this.spanUs * factor));
    this.moveTo(fixed - (x / this.width) * this.spanUs);
  }

  /** Scroll by a page when a time leaves the view. */
  follow(/** @type {number} */ timeUs) {
    if (timeUs < this.startUs || timeUs > this.endUs - this.spanUs * 0.06) this.moveTo(timeUs - this.spanUs * 0.12);
  }
}
Viewport.LEAST_US = 500_000;
