/**
 * Motion: poses, interpolation between keys, and the affine map of a pose. The same rules as in core/motion; both are
 * tested on one table.
 *
 * @typedef {number[]} Pose x, y, turn, stretch, lean, size, then the 18 numbers of its bend, if it has one; see
 *   core/motion/pose.py
 * @typedef {{frame: number, pose: Pose, way: string, step: number, by: string}} Key `by`: the rule that proposed it, empty for
 *   one that a person set
 */

import { MOST } from "./bend.js";

export const FIELDS = ["x", "y", "turn", "stretch", "lean", "size"];
/** The limits of each value of a pose. */
export const LIMITS = [
  [-300, 300],
  [-300, 300],
  [-360, 360],
  [-200, 200],
  [-60, 60],
  [-300, 300],
];
export const NEUTRAL = [0, 0, 0, 0, 0, 0];

const limits = (/** @type {number} */ n) => LIMITS[n] || [-MOST, MOST];
export const clampPose = (/** @type {Pose} */ pose) =>
  pose.map((value, n) => Math.min(limits(n)[1], Math.max(limits(n)[0], value)));

/** The bend of a pose; empty if it is not bent. @param {Pose} pose @returns {import("./bend.js").Bend} */
export const bendOf = (pose) =>
  pose.length > FIELDS.length && pose.slice(FIELDS.length).some((pull) => pull !== 0) ? pose.slice(FIELDS.length) : [];

/** The numbers of a pose as parameters of an edit. @param {Pose} pose @returns {Record<string, any>} */
export const named = (pose) => ({
  ...Object.fromEntries(FIELDS.map((name, n) => [name, pose[n]])),
  ...(bendOf(pose).length ? { bend: bendOf(pose) } : {}),
});

/** The pose of an edit's parameters; missing ones are 0. @param {Record<string, any>} values @returns {Pose} */
export const poseOf = (values) => {
  const six = FIELDS.map((name) => values[name] ?? 0);
  const bend = values.bend || [];
  return bend.some((/** @type {number} */ pull) => pull !== 0) ? [...six, ...bend] : six;
};

/** The numbers of several poses at the same length: missing bends are zeros. @param {Pose[]} poses */
function alike(...poses) {
  const length = Math.max(...poses.map((pose) => pose.length));
  return poses.map((pose) => (pose.length === length ? pose : [...pose, ...new Array(length - pose.length).fill(0)]));
}

/** The index of the last key at or before a frame; -1 before the first. */
export function keyAt(/** @type {Key[]} */ keys, /** @type {number} */ frame) {
  let low = 0;
  let high = keys.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (keys[middle].frame <= frame) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/**
 * The pose of a frame.
 * @param {Key[]} keys in order, one a frame
 * @param {number} frame
 * @returns {Pose}
 */
export function poseOn(keys, frame) {
  if (!keys.length) return NEUTRAL;
  const at = keyAt(keys, frame);
  if (at < 0) return keys[0].pose;
  const here = keys[at];
  if (at + 1 === keys.length || here.way === "hold" || frame === here.frame) return here.pose;
  const there = keys[at + 1];
  const gone = frame - here.frame;
  let share = (gone - (gone % here.step)) / (there.frame - here.frame);
  if (here.way === "smooth") return smooth(keys, at, share);
  if (here.way === "ease") share = share * share * (3 - 2 * share);
  const [one, other] = alike(here.pose, there.pose);
  return one.map((a, n) => a + (other[n] - a) * share);
}

function smooth(/** @type {Key[]} */ keys, /** @type {number} */ at, /** @type {number} */ share) {
  const [here, there] = [keys[at], keys[at + 1]];
  const frames = there.frame - here.frame;
  const square = share * share;
  const cube = share * share * share;
  const [from, to, slope, other] = alike(here.pose, there.pose, slopes(keys, at), slopes(keys, at + 1));
  return clampPose(
    from.map(
      (a, n) =>
        (2 * cube - 3 * square + 1) * a +
        (cube - 2 * square + share) * frames * slope[n] +
        (3 * square - 2 * cube) * to[n] +
        (cube - square) * frames * other[n],
    ),
  );
}

/** How fast each value changes at a key, per frame. */
function slopes(/** @type {Key[]} */ keys, /** @type {number} */ at) {
  // Proposed keys do not count as neighbours of a person's keys, whose curve must not change.
  let [one, other] = [at - 1, at + 1];
  while (one >= 0 && keys[one].by) one -= 1;
  while (other < keys.length && keys[other].by) other += 1;
  if (one < 0 || other >= keys.length || keys[at].by) return NEUTRAL;
  const [before, after] = [keys[one], keys[other]];
  const [from, to] = alike(before.pose, after.pose);
  return from.map((a, n) => (to[n] - a) / (after.frame - before.frame));
}

/**
 * The affine map of a pose around a point, in pixels of a face picture of a given height, as the six numbers of CSS's
 * `matrix()`; without its bend.
 * @param {Pose} pose
 * @param {number[]} pivot
 * @param {number} height
 */
export function poseMatrix(pose, pivot, height) {
  const [x, y, turn, stretch, lean, size] = pose;
  const [cos, sin] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const wide = 2 ** (size / 100) / 2 ** (stretch / 100);
  const high = 2 ** (size / 100) * 2 ** (stretch / 100);
  const skew = -Math.tan((lean * Math.PI) / 180);
  const [a, b] = [cos * wide, sin * wide];
  const [c, d] = [(cos * skew - sin) * high, (sin * skew + cos) * high];
  const e = pivot[0] + (x / 100) * height - a * pivot[0] - c * pivot[1];
  const f = pivot[1] + (y / 100) * height - b * pivot[0] - d * pivot[1];
  return [a, b, c, d, e, f];
}

/** Whether it is the usual pose. */
export const isNeutral = (/** @type {Pose} */ pose) => pose.every((value) => value === 0);
