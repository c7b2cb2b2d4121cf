/**
 * Tapping turns during playback: a number key is held down while its character speaks. Times are those of the sound, so
 * that any speed works; the server subtracts the reaction time.
 */
export class Tapping {
  /** @param {(number: number) => number | undefined} speakerOf the character of a key's number */
  constructor(speakerOf) {
    this.speakerOf = speakerOf;
    /** @type {Map<number, number>} */
    this.down = new Map();
    /** @type {Array<{speaker: number, start: number, end: number}>} */
    this.taps = [];
  }

  /** A key was pressed; true if it belongs to a character. */
  press(/** @type {number} */ number, /** @type {number} */ nowUs) {
    const speaker = this.speakerOf(number);
    if (speaker === undefined) return false;
    if (!this.down.has(speaker)) this.down.set(speaker, nowUs);
    return true;
  }

  release(/** @type {number} */ number, /** @type {number} */ nowUs) {
    const speaker = this.speakerOf(number);
    const start = speaker === undefined ? undefined : this.down.get(speaker);
    if (speaker === undefined || start === undefined) return;
    this.down.delete(speaker);
    if (nowUs > start) this.taps.push({ speaker, start, end: nowUs });
  }

  /** The turns tapped so far, including keys that are still down. */
  soFar(/** @type {number} */ nowUs) {
    const open = [...this.down]
      .filter(([, start]) => nowUs > start)
      .map(([speaker, start]) => ({ speaker, start, end: nowUs }));
    return [...this.taps, ...open];
  }

  /** The sound stopped: return all tapped turns for the server, and reset. */
  finish(/** @type {number} */ nowUs) {
    const all = this.soFar(nowUs);
    this.down.clear();
    this.taps = [];
    return all.map(({ speaker, start, end }) => ({
      speaker: String(speaker),
      start_us: Math.round(start),
      end_us: Math.round(end),
    }));
  }
}
