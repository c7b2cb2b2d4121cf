/**
 * How something moves: poses, what is between their keys, and the map of pixels that a pose is. The same rule as in
 * core/motion; both sides are tested on one table.
 *
 * @typedef {number[]} Pose x, y, turn, stretch, lean, size; see core/motion/pose.py
 * @typedef {{frame: number, pose: Pose, way: string, step: number, by: string}} Key `by`: the rule that proposed it, empty for
 *   one that a person set
 */

export const FIELDS = ["x", "y", "turn", "stretch", "lean", "size"];
/** From where to where each value of a pose goes. */
export const LIMITS = [[-300, 300], [-300, 300], [-360, 360], [-200, 200], [-60, 60], [-300, 300]];
export const NEUTRAL = [0, 0, 0, 0, 0, 0];

export const clampPose = (/** @type {Pose} */ pose) => pose.map((value, n) => Math.min(LIMITS[n][1], Math.max(LIMITS[n][0], value)));

/** The place of the key that a frame is at or after; -1 before the first. */
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
  return here.pose.map((a, n) => a + (there.pose[n] - a) * share);
}

function smooth(/** @type {Key[]} */ keys, /** @type {number} */ at, /** @type {number} */ share) {
  const [here, there] = [keys[at], keys[at + 1]];
  const frames = there.frame - here.frame;
  const square = share * share;
  const cube = share * share * share;
  const [slope, other] = [slopes(keys, at), slopes(keys, at + 1)];
  return clampPose(
    here.pose.map(
      (a, n) =>
        (2 * cube - 3 * square + 1) * a +
        (cube - 2 * square + share) * frames * slope[n] +
        (3 * square - 2 * cube) * there.pose[n] +
        (cube - square) * frames * other[n],
    ),
  );
}

/** How fast each value changes at a key, per frame. */
function slopes(/** @type {Key[]} */ keys, /** @type {number} */ at) {
  // Proposed keys are no neighbours of a person's: what a person set moves as it did.
  let [one, other] = [at - 1, at + 1];
  while (one >= 0 && keys[one].by) one -= 1;
  while (other < keys.length && keys[other].by) other += 1;
  if (one < 0 || other >= keys.length || keys[at].by) return NEUTRAL;
  const [before, after] = [keys[one], keys[other]];
  return before.pose.map((a, n) => (after.pose[n] - a) / (after.frame - before.frame));
}

/**
 * The six numbers of the map that a pose does around a point, on a face picture that is so many pixels high; as CSS's
 * `matrix()` has them.
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

/** Whether it is nothing apart from the usual one. */
export const isNeutral = (/** @type {Pose} */ pose) => pose.every((value) => value === 0);
