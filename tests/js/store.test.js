import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { Store, reduce } from "../../tinfork/static/js/desk/store.js";

const golden = JSON.parse(readFileSync(new URL("../golden/columns.json", import.meta.url), "utf8"));
const drawings = [1, 2, 3, 9].map((number) => ({ id: 100 + number, number, set: "" }));
const column = ({ holds, pins }) => ({
  id: 1,
  drawings,
  holds: holds.map(([start, end, drawing]) => ({ start, end, drawing: 100 + drawing, viseme: "rest" })),
  pins: pins.map(([start, end, exact], at) => ({ key: at + 1, start, end, exact: Boolean(exact) })),
});

/** Everything in it, and in what is in that, cannot be changed any more. */
function frozen(value) {
  if (value && typeof value === "object") Object.values(value).forEach(frozen);
  return Object.freeze(value);
}

const words = [
  { id: 1, clip: 1, text: "loaf", start: 100_000, end: 400_000, sure: 1, line: 1, pinned: false, speaker: 1 },
  { id: 2, clip: 1, text: "tram", start: 500_000, end: 900_000, sure: 1, line: 1, pinned: false, speaker: 1 },
];
const document = (one) => ({
  shot: { durationUs: 10_000_000, frames: 240 },
  revision: 1,
  canUndo: false,
  canRedo: false,
  characters: [column(one), { ...column(golden.columns[1]), id: 2 }],
  words,
  phonemes: [],
  turns: [],
  clips: [{ id: 1, take: 1, start: 0, end: 10_000_000, gain: 0 }],
  looks: [{ key: "a", settled: false }],
  notes: [{ id: 5, frame: 3, text: "blink" }],
  motion: { 1: { head: [] } },
  passNotes: { 1: { head: "calmer" } },
  layout: { stands: { 1: { x: 0.5 } }, ground: "#111111", background: "/there", boil: { strength: 0, rhythm: 2 } },
  sound: {},
});
const edit = (token, name, parameters) => ({ token, name, parameters });

test("an edit makes another state and leaves the one before as it was", () => {
  for (const one of golden.columns) {
    const { confirmed } = new Store(frozen(document(one)));
    for (const [name, parameters, pins] of one.cases) {
      const after = reduce(confirmed, name, parameters);
      if (!pins) assert.equal(after, confirmed, name);
      else assert.deepEqual(after.characters[0].pins.map((p) => [p.start, p.end]), pins.map((p) => p.slice(0, 2)), name);
      assert.equal(after.characters[1], confirmed.characters[1]);
    }
  }
});

test("notes, looks, places, colours and volume are drawn at once", () => {
  const { confirmed } = new Store(frozen(document(golden.columns[0])));
  assert.deepEqual(reduce(confirmed, "note", { frame: 3, text: "" }).notes, []);
  assert.deepEqual(reduce(confirmed, "note", { frame: 3, text: "nod" }).notes, [{ id: 5, frame: 3, text: "nod" }]);
  // By its number it is found wherever it is by now.
  assert.deepEqual(reduce(confirmed, "note", { frame: 9, text: "nod", note: 5 }).notes, [{ id: 5, frame: 3, text: "nod" }]);
  assert.deepEqual(reduce(confirmed, "boil", { strength: 30, rhythm: 3 }).layout.boil, { strength: 30, rhythm: 3 });
  assert.equal(reduce(confirmed, "boil", { strength: 30 }).layout.ground, "#111111");
  const about = (part, text) => reduce(confirmed, "pass_note", { speaker: "1", part, text }).passNotes[1];
  assert.deepEqual(about("face", "fine"), { head: "calmer", face: "fine" });
  assert.deepEqual(about("head", ""), {});
  assert.equal(reduce(confirmed, "settle", { key: "a" }).looks[0].settled, true);
  assert.equal(reduce(confirmed, "settle", { key: "a", open: true }).looks[0].settled, false);
  assert.deepEqual(reduce(confirmed, "stand", { speaker: "1", x: 0.1 }).layout.stands, { 1: { x: 0.1 } });
  assert.equal(reduce(confirmed, "stand", { speaker: "1", usual: true }), confirmed);
  assert.deepEqual(reduce(confirmed, "ground", { colour: "#222222", clear: true }).layout, { ...confirmed.layout, ground: "#222222", background: "" });
  const keyed = reduce(confirmed, "key_set", { speaker: "1", part: "head", frame: 9, turn: 4 }).motion;
  assert.deepEqual(keyed[1].head, [{ frame: 9, pose: [0, 0, 4, 0, 0, 0], way: "ease", step: 1, by: "" }]);
  assert.equal(reduce(confirmed, "key_set", { speaker: "2", part: "face", frame: 9, x: 1 }).motion[2].face.length, 1);
  assert.equal(reduce(confirmed, "gain", { clip: 1, db: -3 }).clips[0].gain, -3);
  assert.equal(reduce(confirmed, "slide", { word: 2, clip: 1, by_us: 20_000, what: "word" }).words[1].start, 520_000);
  for (const name of ["undo", "tap", "dials", "set"]) assert.equal(reduce(confirmed, name, {}), confirmed);
});

test("a list comes whole, or as a splice of the one that is there", () => {
  const store = new Store(frozen(document(golden.columns[0])));
  const [first, ...rest] = store.confirmed.characters[0].holds;
  const halves = [{ ...first, end: 1 }, { ...first, start: 1 }];
  const moved = { ...words[1], start: 600_000 };
  const told = { since: 1, revision: 2, words: { at: 1, gone: 1, put: [moved] }, characters: { 1: { holds: { at: 0, gone: 1, put: halves }, pins: [] } } };
  assert.equal(store.confirm(told), true);
  assert.deepEqual([store.shown.words, store.shown.characters[0].holds, store.shown.characters[0].pins], [[words[0], moved], [...halves, ...rest], []]);
});

test("what is shown is what is confirmed with what waits, and what is refused is gone", () => {
  const store = new Store(frozen(document(golden.columns[0])));
  const one = edit("a", "note", { frame: 9, text: "one" });
  const two = edit("b", "note", { frame: 12, text: "two" });
  const frames = () => store.shown.notes.map((note) => note.frame);
  assert.equal(store.show([one]), true);
  assert.equal(store.show([one]), false);
  store.show([one, two]);
  assert.deepEqual(frames(), [3, 9, 12]);
  // The first one is refused: nothing comes with the answer.
  assert.equal(store.show([two]), true);
  assert.deepEqual(frames(), [3, 12]);
  // Someone else's note comes with the answer to the second.
  store.confirm({ revision: 2, notes: [{ frame: 12, text: "two" }, { frame: 40, text: "theirs" }], characters: { 2: { holds: [] } } });
  store.show([]);
  assert.deepEqual(frames(), [12, 40]);
  assert.equal(store.confirm({ since: 1, revision: 9, notes: [], characters: {} }), false);
  assert.deepEqual(frames(), [12, 40]);
  assert.deepEqual([store.shown.revision, store.shown.characters[1].holds.length, store.shown.characters[0].holds.length > 0], [2, 0, true]);
});
