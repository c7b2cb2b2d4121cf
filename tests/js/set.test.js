import assert from "node:assert/strict";
import { test } from "node:test";
import { holdOn, left, nextChange, saidOn, stretches } from "../../tinfork/static/js/set/model.js";

const holds = [
  { start: 0, end: 4, drawing: 0 },
  { start: 4, end: 6, drawing: 2 },
  { start: 6, end: 12, drawing: -1 },
];

test("every frame has its hold, as a plain search finds it", () => {
  for (let frame = 0; frame < 12; frame += 1) assert.equal(holdOn(holds, frame), holds.findIndex((hold) => hold.start <= frame && frame < hold.end));
});

test("the next and the last change in any column", () => {
  const columns = [{ holds }, { holds: [{ start: 0, end: 5, drawing: 0 }, { start: 5, end: 12, drawing: 1 }] }];
  assert.deepEqual([0, 4, 5, 6, 11].map((frame) => nextChange(columns, frame, 1)), [4, 5, 6, 6, 11]);
  assert.deepEqual([0, 1, 4, 5, 6, 11].map((frame) => nextChange(columns, frame, -1)), [0, 0, 0, 4, 5, 6]);
});

test("what is said, and which of its sounds", () => {
  const heard = [{ text: "us", start: 2, end: 6, sounds: [{ ipa: "ʌ", start: 2, end: 4 }, { ipa: "s", start: 3, end: 6 }] }];
  assert.deepEqual(saidOn(heard, 3), { word: "us", sounds: "ʌ s" });
  assert.deepEqual(saidOn(heard, 6), { word: "", sounds: "" });
  assert.deepEqual([left(2), left(0)], ["2 more", "change next"]);
});

test("marks are drawn as stretches", () => {
  assert.deepEqual(stretches(new Set([5, 1, 2, 9, 3])), [[1, 4], [5, 6], [9, 10]]);
});
