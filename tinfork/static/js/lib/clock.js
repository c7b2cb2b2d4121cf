/**
 * A copy of tinfork/core/clock.py: whole microseconds, whole frames, exact rates. Both are tested on
 * tests/golden/clock.json.
 */
const US_PER_S = 1_000_000;

/** The floor of a quotient of whole numbers, exact below 2^53. */
function floorDiv(/** @type {number} */ a, /** @type {number} */ b) {
  const quotient = Math.floor(a / b);
  return quotient * b > a ? quotient - 1 : (quotient + 1) * b <= a ? quotient + 1 : quotient;
}

export class FrameRate {
  /**
   * @param {number} numerator
   * @param {number} denominator
   */
  constructor(numerator, denominator) {
    this.numerator = numerator;
    this.denominator = denominator;
  }

  /** Whole frames that timecode counts in a second. */
  get nominal() {
    return Math.ceil(this.numerator / this.denominator);
  }

  get label() {
    const value = this.numerator / this.denominator;
    return Number.isInteger(value) ? String(value) : value.toFixed(3).replace(/0+$/, "");
  }

  /** The frame that covers a time. */
  frameAt(/** @type {number} */ timeUs) {
    return floorDiv(timeUs * this.numerator, US_PER_S * this.denominator);
  }

  /** The first whole microsecond of a frame. */
  firstUs(/** @type {number} */ frame) {
    return -floorDiv(-frame * US_PER_S * this.denominator, this.numerator) + 0;
  }

  /** A time in fractional frames, for drawing only. */
  position(/** @type {number} */ timeUs) {
    return (timeUs * this.numerator) / (US_PER_S * this.denominator);
  }
}

const two = (/** @type {number} */ n) => String(n).padStart(2, "0");

/**
 * SMPTE timecode (non-drop) of a frame counted from 00:00:00:00.
 * @param {number} frame
 * @param {FrameRate} rate
 */
export function timecode(frame, rate) {
  const fps = rate.nominal;
  const seconds = floorDiv(frame, fps);
  return `${two(floorDiv(seconds, 3600))}:${two(floorDiv(seconds, 60) % 60)}:${two(seconds % 60)}:${two(frame - seconds * fps)}`;
}

/** 35 mm footage of a frame, as FEET+FRAMES: 16 frames a foot. */
export function feetAndFrames(/** @type {number} */ frame) {
  return `${floorDiv(frame, 16)}+${two(frame - 16 * floorDiv(frame, 16))}`;
}
