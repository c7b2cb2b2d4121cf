import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { Columns } from "../../tinfork/static/js/desk/columns.js";
import { namesOf } from "../../tinfork/static/js/lib/keys.js";
import { part, predicted, pulled, unpinned, written } from "../../tinfork/static/js/desk/predict.js";
import { Selection } from "../../tinfork/static/js/desk/selection.js";
import { powers } from "../../tinfork/static/js/desk/spectrogram.js";

const golden = JSON.parse(readFileSync(new URL("../golden/columns.json", import.meta.url), "utf8"));
const drawings = [1, 2, 3, 9].map((number) => ({ id: 100 + number, number, set: "" }));
const holdsOf = (rows) => rows.map(([start, end, drawing]) => ({ start, end, drawing: 100 + drawing, viseme: "rest" }));
const column = ({ holds, pins }) => ({ drawings, holds: holdsOf(holds), pins: pins.map(([start, end, exact], at) => ({ key: at + 1, start, end, exact: Boolean(exact) })) });

test("what is drawn at once is what the server makes of it, and nothing is drawn of what it refuses", () => {
  let seen = 0;
  for (const one of golden.columns) {
    for (const [name, parameters, pins] of one.cases) {
      const guess = predicted(column(one), name, parameters);
      const what = `${name} ${JSON.stringify(parameters)} on ${JSON.stringify(one.pins)}`;
      seen += 1;
      if (!pins) {
        assert.equal(guess, null, what);
        continue;
      }
      assert.deepEqual(guess.pins.map((p) => [p.start, p.end, Number(p.exact)]), pins.map((p) => p.slice(0, 3)), what);
      const { holds } = guess;
      assert.equal(holds[0].start, 0);
      assert.equal(holds[holds.length - 1].end, golden.frames);
      for (let at = 1; at < holds.length; at += 1) assert.equal(holds[at].start, holds[at - 1].end, what);
      for (const [start, end, isExact, drawing] of pins) {
        if (!isExact || drawing === null) continue;
        const on = holds.find((hold) => hold.start <= start && start < hold.end);
        assert.ok(on.drawing === (drawing < 0 ? 0 : 100 + drawing) && on.end >= end, what);
      }
    }
  }
  assert.ok(seen > 2000);
});

test("a hold that is written keeps what is outside of it", () => {
  const holds = [{ start: 0, end: 10, drawing: 1, viseme: "" }, { start: 10, end: 20, drawing: 2, viseme: "" }];
  const put = written(holds, { start: 4, end: 12, drawing: 3, viseme: "" });
  assert.deepEqual(put.map((h) => [h.start, h.end, h.drawing]), [[0, 4, 1], [4, 12, 3], [12, 20, 2]]);
  assert.deepEqual(written(put, { start: 4, end: 12, drawing: 1, viseme: "" }).map((h) => [h.start, h.end]), [[0, 12], [12, 20]]);
  assert.deepEqual(part(put, 3, 5).map((h) => [h.start, h.end, h.drawing]), [[3, 4, 1], [4, 5, 3]]);
  assert.deepEqual(unpinned([{ start: 2, end: 9 }], 4, 6).map((p) => [p.start, p.end]), [[2, 4], [6, 9]]);
  assert.deepEqual(pulled(put, 1, 9).map((h) => [h.start, h.end]), [[0, 4], [4, 9], [9, 20]]);
  assert.deepEqual(pulled(put, 0, 14).map((h) => [h.start, h.end, h.drawing]), [[0, 14, 1], [14, 20, 2]]);
  assert.equal(predicted(column(golden.columns[0]), "retype", {}), null);
});

const cast = { frames: 100, characters: [{ id: 7 }, { id: 8 }, { id: 9 }] };

test("rows are selected over columns, grow from where they began, and reach to the ends", () => {
  const selection = new Selection(cast, { value: cast.characters[1] });
  selection.begin(20, 0);
  selection.extend(10, 1);
  assert.deepEqual(selection.range.value, { first: 10, end: 21, who: [7, 8] });
  assert.ok(selection.covers(8, 20) && !selection.covers(9, 20) && !selection.covers(8, 21));
  selection.clear();
  selection.grow(50, 1);
  selection.grow(50, 1);
  assert.deepEqual(selection.range.value, { first: 50, end: 53, who: [8] });
  for (let n = 0; n < 4; n += 1) selection.grow(50, -1);
  assert.deepEqual(selection.range.value, { first: 48, end: 51, who: [8] });
  selection.reach("before", 30);
  assert.deepEqual(selection.range.value, { first: 0, end: 30, who: [8] });
  selection.reach("after", 30);
  assert.deepEqual(selection.range.value, { first: 30, end: 100, who: [8] });
  selection.reach("before", 0);
  assert.equal(selection.range.value, null);
});

test("columns are chosen, ordered and kept, and a broken store does no harm", () => {
  const kept = new Map();
  const store = { getItem: (key) => kept.get(key) ?? null, setItem: (key, value) => kept.set(key, value) };
  const columns = new Columns([{ id: 1, name: "Odalys" }, { id: 2, name: "Pim" }], store);
  assert.deepEqual(columns.laidOut(500).map((c) => c.label), ["frame", "sound", "words", "IPA", "Odalys", "Pim", "notes"]);
  columns.show("ipa", false);
  columns.move("notes", -1);
  columns.setRows("high");
  const again = new Columns([{ id: 1, name: "Odalys" }], store);
  assert.deepEqual([again.shown, again.row], [["frame", "sound", "words", "mouths", "notes", "motion"], 23]);
  const laid = again.laidOut(600);
  assert.equal(laid.reduce((sum, c) => sum + c.width, 0), 600);
  const three = new Columns([{ id: 1 }, { id: 2 }, { id: 3 }], { getItem: () => null, setItem: () => {} });
  assert.ok(Math.abs(three.laidOut(389).reduce((sum, c) => sum + c.width, 0) - 389) < 1);
  kept.set("tinfork-sheet", '{"order": 3}');
  assert.equal(new Columns([], store).row, 16);
});

test("a pure tone lies in its bin", () => {
  const tone = Float32Array.from({ length: 600 }, (_, n) => Math.sin((2 * Math.PI * 20 * n) / 256));
  const power = powers(tone, 100);
  assert.equal(power.indexOf(Math.max(...power)), 20);
  assert.ok(power[20] > 1000 * power[40]);
});

test("keys are called by what is held with them", () => {
  const key = (name, held = {}) => namesOf({ key: name, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held });
  assert.deepEqual(key("D"), ["d"]);
  assert.deepEqual(key("ArrowUp", { altKey: true }), ["alt+ArrowUp"]);
  assert.deepEqual(key("Z", { ctrlKey: true, shiftKey: true }), ["ctrl+shift+z", "ctrl+z"]);
  assert.deepEqual(key("?", { shiftKey: true }), ["shift+?", "?"]);
});
