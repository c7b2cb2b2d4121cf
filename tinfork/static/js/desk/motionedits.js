/**
 * Predicts the keys of a column of motion after an edit, like core/soundtrack/keys.py; both are tested on one table.
 *
 * @typedef {import("../lib/pose.js").Key} Key
 */
import { poseOf } from "../lib/pose.js";

const inOrder = (/** @type {Key[]} */ keys) => keys.sort((a, b) => a.frame - b.frame);

/** Round half to even. */
function rounded(/** @type {number} */ value) {
  const down = Math.floor(value);
  if (value - down !== 0.5) return Math.round(value);
  return down % 2 === 0 ? down : down + 1;
}

/**
 * Move the keys of some frames; they replace keys on their new frames. Null if one would leave the shot, or if there
 * are none.
 */
function moved(
  /** @type {Key[]} */ keys,
  /** @type {number} */ frames,
  /** @type {number} */ first,
  /** @type {number} */ end,
  /** @type {(frame: number) => number} */ to,
) {
  const [going, staying] = [
    keys.filter((k) => first <= k.frame && k.frame < end),
    keys.filter((k) => !(first <= k.frame && k.frame < end)),
  ];
  const gone = going.map((key) => ({ ...key, frame: to(key.frame), by: "" }));
  if (!gone.length || gone.some((key) => key.frame < 0 || key.frame >= frames)) return null;
  const last = new Map(gone.map((key) => [key.frame, key]));
  return inOrder([...staying.filter((key) => !last.has(key.frame)), ...last.values()]);
}

/** @type {Record<string, (keys: Key[], p: any, frames: number) => Key[] | null>} */
const EDITS = {
  key_set(keys, p, frames) {
    if (p.frame >= frames) return null;
    const here = keys.find((key) => key.frame === p.frame);
    const like = here || [...keys].reverse().find((key) => key.frame < p.frame);
    const key = {
      frame: p.frame,
      pose: poseOf(p),
      way: p.way || like?.way || "ease",
      step: p.step || like?.step || 1,
      by: "",
    };
    return inOrder([...keys.filter((one) => one !== here), key]);
  },
  key_remove(keys, p) {
    const left = keys.filter((key) => key.frame < p.first || key.frame > p.last);
    return p.last < p.first || left.length === keys.length ? null : left;
  },
  key_move(keys, p, frames) {
    return p.last < p.first ? null : moved(keys, frames, p.first, p.last + 1, (frame) => frame + p.by);
  },
  key_spread(keys, p, frames) {
    if (p.last <= p.first || p.to <= p.first) return null;
    return moved(
      keys,
      frames,
      p.first,
      p.last + 1,
      (frame) => p.first + rounded(((frame - p.first) * (p.to - p.first)) / (p.last - p.first)),
    );
  },
  key_way(keys, p) {
    let isOther = false;
    const out = keys.map((key) => {
      if (key.frame < p.first || key.frame > p.last) return key;
      const other = { ...key, way: p.way || key.way, step: p.step || key.step, by: "" };
      isOther ||= other.way !== key.way || other.step !== key.step || key.by !== "";
      return other;
    });
    return p.last >= p.first && isOther ? out : null;
  },
  key_paste(keys, p, frames) {
    const last = new Map(
      p.keys.map((/** @type {any} */ k) => [
        p.at + k.frame,
        { frame: p.at + k.frame, pose: poseOf(k), way: k.way || "ease", step: k.step || 1, by: "" },
      ]),
    );
    const put = [...last.values()].filter((key) => key.frame < frames);
    const end = p.at + Math.max(...p.keys.map((/** @type {any} */ k) => k.frame));
    return put.length ? inOrder([...keys.filter((key) => key.frame < p.at || key.frame > end), ...put]) : null;
  },
};

/**
 * @param {Key[]} keys
 * @param {string} name
 * @param {Record<string, any>} parameters
 * @param {number} frames of the shot
 * @returns {Key[] | null} null where it will be refused, or is no edit of keys
 */
export function editedKeys(keys, name, parameters, frames) {
  return EDITS[name] ? EDITS[name](keys, parameters, frames) : null;
}
