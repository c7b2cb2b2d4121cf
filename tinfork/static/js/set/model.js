/**
 * What the guide at the set shows on a frame. Frames count from 0.
 *
 * @typedef {{start: number, end: number, drawing: number}} Hold `drawing`: its place among the column's, -1 for none
 * @typedef {{number: number, set: string, name: string, picture: string}} Drawing
 * @typedef {{name: string, isMouth: boolean, drawings: Drawing[], holds: Hold[]}} Column
 * @typedef {{text: string, start: number, end: number, sounds: Array<{ipa: string, start: number, end: number}>}} Word
 * @typedef {{production: string, shot: string, firstFrame: number, frames: number, rate: [number, number], columns: Column[],
 *   heard: Word[], notes: Array<{frame: number, text: string}>}} SetDocument
 */
import { gettext } from "../lib/gettext.js";

/** The place of the hold that covers a frame. */
export function holdOn(/** @type {Hold[]} */ holds, /** @type {number} */ frame) {
  let [low, high] = [0, holds.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (holds[middle].start <= frame) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** What is said on a frame, and the sounds of it that are heard there. */
export function saidOn(/** @type {Word[]} */ heard, /** @type {number} */ frame) {
  const words = heard.filter((word) => word.start <= frame && frame < word.end);
  const sounds = words.flatMap((word) =>
    word.sounds.filter((sound) => sound.start <= frame && frame < sound.end).map((sound) => sound.ipa),
  );
  return { word: words.map((word) => word.text).join(" "), sounds: sounds.join(" ") };
}

/** The frame on which something changes next (1) or changed last (-1), in any column. */
export function nextChange(/** @type {Column[]} */ columns, /** @type {number} */ frame, /** @type {1 | -1} */ by) {
  const starts = columns.flatMap((column) => column.holds.map((hold) => hold.start));
  const found = starts.filter((start) => (by > 0 ? start > frame : start < frame));
  return found.length ? (by > 0 ? Math.min(...found) : Math.max(...found)) : frame;
}

/** How long a hold lasts after a frame, in words. */
export function left(/** @type {number} */ frames) {
  return frames > 0 ? gettext("{frames} more", { frames }) : gettext("change next");
}

/** Stretches of frames `[start, end)` that are marked. */
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
