/**
 * The data of the guide on each frame. Frames count from 0.
 *
 * @typedef {{start: number, end: number, drawing: number}} Hold `drawing`: its place among the column's, -1 for none
 * @typedef {{number: number, set: string, name: string, picture: string}} Drawing
 * @typedef {{name: string, isMouth: boolean, drawings: Drawing[], holds: Hold[]}} Column
 * @typedef {{text: string, start: number, end: number, sounds: Array<{ipa: string, start: number, end: number}>}} Word
 * @typedef {{production: string, shot: string, firstFrame: number, frames: number, rate: [number, number], columns: Column[],
 *   heard: Word[], notes: Array<{frame: number, text: string}>}} SetDocument
 */
import { gettext } from "../lib/gettext.js";

/** The index of the hold that covers a frame. */
export function holdOn(/** @type {Hold[]} */ holds, /** @type {number} */ frame) {
  let [low, high] = [0, holds.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (holds[middle].start <= frame) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** The word on a frame, and its phonemes there. */
export function saidOn(/** @type {Word[]} */ heard, /** @type {number} */ frame) {
  const words = heard.filter((word) => word.start <= frame && frame < word.end);
  const sounds = words.flatMap((word) =>
    word.sounds.filter((sound) => sound.start <= frame && frame < sound.end).map((sound) => sound.ipa),
  );
  return { word: words.map((word) => word.text).join(" "), sounds: sounds.join(" ") };
}

/** The next (1) or previous (-1) frame on which any column changes. */
export function nextChange(/** @type {Column[]} */ columns, /** @type {number} */ frame, /** @type {1 | -1} */ by) {
  const starts = columns.flatMap((column) => column.holds.map((hold) => hold.start));
  const found = starts.filter((start) => (by > 0 ? start > frame : start < frame));
  return found.length ? (by > 0 ? Math.min(...found) : Math.max(...found)) : frame;
}

/** The remaining length of a hold after a frame, as text. */
export function left(/** @type {number} */ frames) {
  return frames > 0 ? gettext("{frames} more", { frames }) : gettext("change next");
}

/** The marked stretches of frames `[start, end)`. */
export function stretches(/** @type {Set<number>} */ marked) {
  /** @type {Array<[number, number]>} */
  const out = [];
  for (const frame of [...marked].sort((a, b) => a - b)) {
    const last = out.at(-1);
    if (last && last[1] === frame) last[1] = frame + 1;
    else out.push([frame, frame + 1]);
  }
  return out;
}
