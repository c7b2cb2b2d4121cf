/** The selection on the Sheet: frames `[first, end)` of one or more characters. */
import { Signal } from "../lib/signal.js";

/** @typedef {{first: number, end: number, who: number[]}} Range */

export class Selection {
  /**
   * @param {{frames: number, characters: Array<{id: number}>}} shot
   * @param {{value: {id: number}}} activeCharacter the active character
   */
  constructor(shot, activeCharacter) {
    this.shot = shot;
    this.activeCharacter = activeCharacter;
    /** @type {Signal<Range | null>} */
    this.range = new Signal(/** @type {Range | null} */ (null));
    /** The start of the selection, while it grows. */
    this.anchor = { frame: 0, column: -1 };
  }

  clear() {
    this.range.value = null;
  }

  /** Start a selection at a frame of a column (-1: all columns). */
  begin(/** @type {number} */ frame, /** @type {number} */ column) {
    this.anchor = { frame, column };
  }

  /** Extend it to a frame of a column, included. */
  extend(/** @type {number} */ frame, /** @type {number} */ column = this.anchor.column) {
    const [low, high] = [Math.min(frame, this.anchor.frame), Math.max(frame, this.anchor.frame)];
    const columns = [this.anchor.column, column].sort((a, b) => a - b);
    const cast = this.shot.characters;
    const who = columns[0] < 0 ? cast : cast.slice(columns[0], columns[1] + 1);
    this.set(
      low,
      high + 1,
      who.map((one) => one.id),
    );
  }

  /**
   * @param {number} first
   * @param {number} end
   * @param {number[]} [who] the active character, where nobody is named
   */
  set(first, end, who = [this.activeCharacter.value.id]) {
    const [low, high] = [Math.max(0, first), Math.min(this.shot.frames, end)];
    this.range.value = low < high ? { first: low, end: high, who } : null;
  }

  /** Move its free end by frames; a new selection begins at the playhead. */
  grow(/** @type {number} */ frame, /** @type {number} */ by) {
    const range = this.range.value;
    if (!range) {
      const column = this.shot.characters.findIndex((one) => one.id === this.activeCharacter.value.id);
      this.begin(frame, column);
      this.extend(Math.max(0, Math.min(this.shot.frames - 1, frame + by)), column);
      return;
    }
    const moving = this.anchor.frame === range.first ? range.end - 1 : range.first;
    const to = Math.max(0, Math.min(this.shot.frames - 1, moving + by));
    const [low, high] = [Math.min(to, this.anchor.frame), Math.max(to, this.anchor.frame)];
    this.set(low, high + 1, range.who);
  }

  /** Select everything before the playhead, everything from it on, or all. */
  reach(/** @type {"before" | "after" | "all"} */ side, /** @type {number} */ frame) {
    const [first, end] = { before: [0, frame], after: [frame, this.shot.frames], all: [0, this.shot.frames] }[side];
    this.begin(side === "before" ? Math.max(0, frame - 1) : first, this.anchor.column);
    this.set(first, end);
  }

  covers(/** @type {number} */ character, /** @type {number} */ frame) {
    const range = this.range.value;
    return Boolean(range && range.first <= frame && frame < range.end && range.who.includes(character));
  }
}
