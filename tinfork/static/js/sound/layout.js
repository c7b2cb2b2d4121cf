/** The geometry of the page of a shot's sound: positions of items, and the item under a point. */

export const RULER = 24;
export const WORDS = 24;
const TURN_LEAST = 28;
const TURN_MOST = 46;
export const EDGE = 7;
const GAP = 4;
const TRACK_LEAST = 52;
const TRACK_MOST = 190;

/**
 * @typedef {{kind: "ruler" | "track" | "words" | "turns", top: number, height: number, id: number}} Lane
 * @typedef {{kind: string, lane?: Lane, id?: number, clip?: number, turn?: number, edge?: "start" | "end" | "fade_in" | "fade_out" | ""}} Hit
 */

/**
 * The lanes from top to bottom; tracks share the available height.
 * @param {import("./model.js").SoundShot} shot
 * @param {number} height
 * @returns {Lane[]}
 */
export function lanesOf(shot, height) {
  const people = shot.characters.length;
  const fixed = RULER + WORDS + 2 * GAP + 10;
  // Turns take a quarter of the height, tracks the rest.
  const turn = Math.max(TURN_LEAST, Math.min(TURN_MOST, Math.floor((height - fixed) / 4 / people) - GAP));
  const room = (height - fixed - people * (turn + GAP)) / Math.max(1, shot.tracks.length) - GAP;
  const track = Math.max(TRACK_LEAST, Math.min(TRACK_MOST, Math.floor(room)));
  /** @type {Lane[]} */
  const lanes = [{ kind: "ruler", top: 0, height: RULER, id: 0 }];
  let top = RULER + GAP;
  for (const { id } of shot.tracks) {
    lanes.push({ kind: "track", top, height: track, id });
    top += track + GAP;
  }
  lanes.push({ kind: "words", top, height: WORDS, id: 0 });
  top += WORDS + GAP;
  for (const { id } of shot.characters) {
    lanes.push({ kind: "turns", top, height: turn, id });
    top += turn + GAP;
  }
  return lanes;
}

/** The total height. */
export function heightOf(/** @type {Lane[]} */ lanes) {
  const last = lanes[lanes.length - 1];
  return last.top + last.height + GAP;
}

/**
 * Which end of a box is under x; the middle if the box is too short for both.
 * @param {number} x
 * @param {number} left
 * @param {number} right
 * @returns {"start" | "end" | ""}
 */
export function edgeAt(x, left, right) {
  const reach = Math.min(EDGE, (right - left) / 3);
  if (x - left <= reach) return "start";
  return right - x <= reach ? "end" : "";
}

/**
 * The item under a point.
 * @param {import("./model.js").SoundShot} shot
 * @param {Lane[]} lanes
 * @param {import("../lib/viewport.js").Viewport} view
 * @param {number} x
 * @param {number} y
 * @param {import("./model.js").Selection} selection the active clip also offers its fades
 * @returns {Hit}
 */
export function hitAt(shot, lanes, view, x, y, selection) {
  const lane = lanes.find((each) => y >= each.top && y < each.top + each.height);
  if (!lane) return { kind: "nothing" };
  if (lane.kind === "ruler") return { kind: "ruler", lane };
  if (lane.kind === "track") {
    const clip = shot.clips.findLast(
      (each) => each.track === lane.id && x >= view.x(each.start) && x <= view.x(each.start + each.length),
    );
    if (!clip) return { kind: "track", lane, id: lane.id };
    const left = view.x(clip.start);
    const right = view.x(clip.start + clip.length);
    if (selection?.kind === "clip" && selection.id === clip.id && y < lane.top + 14 && right - left > 40) {
      if (Math.abs(x - view.x(clip.start + clip.fade_in)) <= EDGE)
        return { kind: "clip", lane, id: clip.id, edge: "fade_in" };
      if (Math.abs(x - view.x(clip.start + clip.length - clip.fade_out)) <= EDGE)
        return { kind: "clip", lane, id: clip.id, edge: "fade_out" };
    }
    return { kind: "clip", lane, id: clip.id, edge: edgeAt(x, left, right) };
  }
  if (lane.kind === "turns") {
    const turn = shot.turns.findLast(
      (each) => each.speaker === lane.id && x >= view.x(each.start) - 2 && x <= view.x(each.end) + 2,
    );
    if (!turn) return { kind: "turns", lane, id: lane.id };
    return {
      kind: "turn",
      lane,
      clip: turn.clip,
      turn: turn.id,
      edge: edgeAt(x, view.x(turn.start), view.x(turn.end)),
    };
  }
  return { kind: lane.kind, lane };
}
