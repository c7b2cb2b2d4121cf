import assert from "node:assert/strict";
import { test } from "node:test";
import { Film } from "../../tinfork/static/js/review/model.js";

const shots = [
  { id: 7, name: "010", start: 0, frames: 48, firstFrame: 1, verdict: "" },
  { id: 9, name: "020", start: 48, frames: 24, firstFrame: 101, verdict: "" },
];
const film = new Film({ rate: [24, 1], shots, remarks: [] });

test("each frame is at its own time, at exact and at video rates", () => {
  for (const rate of [[24, 1], [25, 1], [24000, 1001], [30000, 1001], [60, 1]]) {
    const own = new Film({ rate, shots, remarks: [] });
    for (let frame = 0; frame < own.frames; frame += 1) assert.equal(own.frameAt(own.timeOf(frame)), frame);
  }
});

test("a time is the frame that is seen then, and no time is outside the film", () => {
  assert.equal(film.frameAt(0), 0);
  assert.equal(film.frameAt(1), 24);
  assert.equal(film.frameAt(0.9999), 23);
  assert.equal(film.frameAt(-1), 0);
  assert.equal(film.frameAt(99), 71);
});

test("frames are called as in their shots", () => {
  assert.equal(film.label(0), "0001");
  assert.equal(film.label(47), "0048");
  assert.equal(film.label(48), "0101");
  assert.equal(film.shotAt(47).id, 7);
  assert.equal(film.shotAt(48).id, 9);
  assert.equal(film.shotAt(71).id, 9);
});

test("a remark stands at its frame of its shot, inside it even where the shot is shorter here", () => {
  assert.equal(film.frameOf({ shot: 9, frame: 3 }), 51);
  assert.equal(film.frameOf({ shot: 7, frame: 400 }), 47);
  assert.equal(film.frameOf({ shot: 1, frame: 0 }), -1);
});
