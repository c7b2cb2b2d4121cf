/** The frames of a review link's film, and their shots. Independent of the page. */

/**
 * @typedef {{id: number, name: string, start: number, frames: number, firstFrame: number, verdict: string}}
 * ReviewedShot
 */
/** @typedef {{id: number, shot: number, frame: number, last: number, name: string, text: string, settled: boolean,
 *   changed: boolean, drawing: import("../lib/sketch.js").Stroke[], answers: Array<{name: string, text: string}>}} Remark
 *   `frame` to `last`: of its shot, from 0 */
/** @typedef {{rate: [number, number], shots: ReviewedShot[], remarks: Remark[]}} ReviewDocument */

export class Film {
  constructor(/** @type {ReviewDocument} */ told) {
    this.perSecond = told.rate[0] / told.rate[1];
    this.shots = told.shots;
    const last = told.shots[told.shots.length - 1];
    this.frames = last ? last.start + last.frames : 0;
  }

  /** The frame at a time (seconds). */
  frameAt(/** @type {number} */ time) {
    return Math.min(Math.max(0, this.frames - 1), Math.max(0, Math.floor(time * this.perSecond + 1e-6)));
  }

  /** The middle of a frame (seconds), so that rounding cannot lead to another frame. */
  timeOf(/** @type {number} */ frame) {
    return (frame + 0.5) / this.perSecond;
  }

  /** The shot of a frame of the film. */
  shotAt(/** @type {number} */ frame) {
    return this.shots.findLast((shot) => shot.start <= frame) || this.shots[0];
  }

  /** The film's frame of a remark; -1 if its shot is not in the film. */
  frameOf(/** @type {Remark} */ remark) {
    const shot = this.shots.find((one) => one.id === remark.shot);
    return shot ? shot.start + Math.min(remark.frame, Math.max(0, shot.frames - 1)) : -1;
  }

  /** The remarks whose stretch includes a frame of the film. @param {Remark[]} remarks @param {number} frame */
  remarksAt(remarks, frame) {
    return remarks.filter((one) => {
      const start = this.frameOf(one);
      return start >= 0 && start <= frame && frame <= start + one.last - one.frame;
    });
  }

  /** The displayed name of a stretch of the film. @param {number} first @param {number} last */
  labels(first, last) {
    return last > first ? `${this.label(first)}–${this.label(last)}` : this.label(first);
  }

  /** The displayed number of a frame, as in its shot. */
  label(/** @type {number} */ frame) {
    const shot = this.shotAt(frame);
    return shot ? String(shot.firstFrame + frame - shot.start).padStart(4, "0") : "";
  }
}
