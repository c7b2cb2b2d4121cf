/** The frames of a comparison, and the stretches that differ. Independent of the page. */
export class Comparison {
  /** @param {{rate: [number, number], frames: number, firstFrame: number, differs: Array<[number, number]>}} told */
  constructor(told) {
    this.perSecond = told.rate[0] / told.rate[1];
    this.frames = told.frames;
    this.firstFrame = told.firstFrame;
    this.differs = told.differs;
  }

  inside(/** @type {number} */ frame) {
    return Math.min(this.frames - 1, Math.max(0, frame));
  }

  /** The frame at a time (seconds). */
  frameAt(/** @type {number} */ time) {
    return this.inside(Math.floor(time * this.perSecond + 1e-6));
  }

  /** The middle of a frame (seconds). */
  timeOf(/** @type {number} */ frame) {
    return (this.inside(frame) + 0.5) / this.perSecond;
  }

  /** The first frame of the next differing stretch, cyclically. */
  nextDifference(/** @type {number} */ frame) {
    const next = this.differs.find(([first]) => first > frame) || this.differs[0];
    return next ? next[0] : frame;
  }

  label(/** @type {number} */ frame) {
    return String(this.firstFrame + frame).padStart(4, "0");
  }
}
