import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { FrameRate, timecode } from "../../tinfork/static/js/lib/clock.js";

const golden = JSON.parse(readFileSync(new URL("../golden/clock.json", import.meta.url), "utf8"));

test("the golden values shared with the core", () => {
  for (const { rate: [n, d], frame, first_us: first, timecode: code, at } of golden) {
    const rate = new FrameRate(n, d);
    assert.equal(rate.firstUs(frame), first);
    assert.equal(timecode(frame, rate), code);
    for (const [time, wanted] of at) assert.equal(rate.frameAt(time), wanted);
  }
});

test("every first microsecond lies on its frame and the one before does not", () => {
  for (const [n, d] of [[24000, 1001], [30000, 1001], [60000, 1001], [25, 1], [12, 1]]) {
    const rate = new FrameRate(n, d);
    for (let frame = 1; frame < 40_000; frame += 7) {
      assert.equal(rate.frameAt(rate.firstUs(frame)), frame);
      assert.equal(rate.frameAt(rate.firstUs(frame) - 1), frame - 1);
    }
  }
});

test("a rate has the name people use", () => {
  assert.equal(new FrameRate(24000, 1001).label, "23.976");
  assert.equal(new FrameRate(30000, 1001).label, "29.97");
  assert.equal(new FrameRate(25, 1).label, "25");
});
