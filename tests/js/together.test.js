import assert from "node:assert/strict";
import { test } from "node:test";
import { arrowHead, drawnOn } from "../../tinfork/static/js/lib/sketch.js";
import { Comparison } from "../../tinfork/static/js/review/comparison.js";
import { Film } from "../../tinfork/static/js/review/model.js";

test("a pen goes on, an arrow points elsewhere, and both stay in the picture", () => {
  const pen = drawnOn({ kind: "pen", points: [[0.5, 0.5]] }, [0.6, 1.7]);
  assert.deepEqual(pen.points, [[0.5, 0.5], [0.6, 1]]);
  assert.equal(drawnOn(pen, [0.6001, 1]), pen);
  const arrow = drawnOn(drawnOn({ kind: "arrow", points: [[0, 0]] }, [0.2, 0.2]), [-1, 0.123456]);
  assert.deepEqual(arrow.points, [[0, 0], [0, 0.1235]]);
});

test("a pen takes as many points as are kept", () => {
  let stroke = { kind: "pen", points: [[0, 0]] };
  for (let n = 1; n < 1000; n += 1) stroke = drawnOn(stroke, [(n % 2) / 2, (n % 97) / 97]);
  assert.equal(stroke.points.length, 400);
});

test("an arrow's head lies behind its tip, as far on both sides", () => {
  const heads = arrowHead({ kind: "arrow", points: [[0, 0.5], [1, 0.5]] }, 200, 100);
  assert.ok(heads.every(([x]) => x < 200));
  assert.ok(Math.abs(heads[0][1] + heads[1][1] - 100) < 1e-9);
  const down = arrowHead({ kind: "arrow", points: [[0.5, 0], [0.5, 1]] }, 200, 100);
  assert.ok(down.every(([, y]) => y < 100));
});

test("a comparison goes from difference to difference, round again at the end", () => {
  const both = new Comparison({ rate: [24, 1], frames: 40, firstFrame: 101, differs: [[4, 7], [20, 21]] });
  assert.deepEqual([0, 4, 10, 20, 39].map((frame) => both.nextDifference(frame)), [4, 20, 20, 4, 4]);
  assert.equal(both.label(3), "0104");
  for (let frame = 0; frame < 40; frame += 1) assert.equal(both.frameAt(both.timeOf(frame)), frame);
  assert.equal(both.frameAt(99), 39);
  assert.equal(new Comparison({ rate: [25, 1], frames: 3, firstFrame: 1, differs: [] }).nextDifference(2), 2);
});

test("what was said is seen on all frames that it is about, and nowhere else", () => {
  const shots = [{ id: 1, name: "a", start: 0, frames: 10, firstFrame: 1, verdict: "" }, { id: 2, name: "b", start: 10, frames: 10, firstFrame: 101, verdict: "" }];
  const film = new Film({ rate: [24, 1], shots, remarks: [] });
  const remark = (shot, frame, last) => ({ id: 0, shot, frame, last, name: "", text: "", settled: false, changed: false, drawing: [], answers: [] });
  const all = [remark(2, 3, 5), remark(1, 2, 2), remark(9, 0, 9)];
  assert.deepEqual([2, 12, 13, 15, 16].map((frame) => film.remarksAt(all, frame).length), [1, 0, 1, 1, 0]);
  assert.equal(film.labels(13, 15), "0104–0106");
  assert.equal(film.labels(2, 2), "0003");
});
