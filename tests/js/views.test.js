import assert from "node:assert/strict";
import { test } from "node:test";
import { Peaks } from "../../tinfork/static/js/lib/peaks.js";
import { fitted } from "../../tinfork/static/js/lib/lay.js";
import { Viewport } from "../../tinfork/static/js/lib/viewport.js";
import { Scope } from "../../tinfork/static/js/lib/scope.js";
import { Signal } from "../../tinfork/static/js/lib/signal.js";

test("a viewport turns time into place and back", () => {
  const view = new Viewport(10_000_000, 2_000_000);
  view.width = 800;
  view.moveTo(3_000_000);
  assert.equal(view.x(4_000_000), 400);
  assert.equal(view.timeAt(400), 4_000_000);
});

test("zooming keeps the time under the pointer, and stays inside the sound", () => {
  const view = new Viewport(10_000_000, 2_000_000);
  view.width = 800;
  view.moveTo(4_000_000);
  const under = view.timeAt(300);
  view.zoom(0.5, 300);
  assert.ok(Math.abs(view.timeAt(300) - under) < 1);
  for (let n = 0; n < 20; n += 1) view.zoom(2, 300);
  assert.deepEqual([view.startUs, view.spanUs], [0, 10_000_000]);
  for (let n = 0; n < 40; n += 1) view.zoom(0.5, 300);
  assert.equal(view.spanUs, Viewport.LEAST_US);
});

test("following turns the page only when a time leaves it", () => {
  const view = new Viewport(10_000_000, 2_000_000);
  view.follow(1_000_000);
  assert.equal(view.startUs, 0);
  view.follow(5_000_000);
  assert.ok(view.startUs < 5_000_000 && view.endUs > 5_000_000);
  view.follow(9_999_999);
  assert.equal(view.endUs, 10_000_000);
});

test("peaks give the lowest and highest of a span, and a level fit for the zoom", () => {
  const asked = [];
  const peaks = new Peaks({ peaks: ["a", "b", "c"], peaksPerSecond: 1000, peaksFactor: 4 });
  peaks.fetch = (level) => asked.push(level) && peaks.levels.set(level, null);
  assert.equal(peaks.level(500), -1);
  peaks.levels.set(0, Int8Array.from([-10, 10, -20, 5, -3, 30, 0, 1]));
  assert.deepEqual(peaks.range(0, 1000, 3000), [-20, 30]);
  assert.deepEqual(peaks.range(0, 3000, 3001), [0, 1]);
  assert.deepEqual(peaks.range(0, 90_000, 91_000), [0, 0]);
  assert.equal(peaks.level(17_000), 0);
  assert.deepEqual(asked, [0, 2]);
});

test("a picture is fitted whole and centred", () => {
  assert.deepEqual(fitted(1000, 1000, 2), { left: 0, top: 250, width: 1000, height: 500 });
  assert.deepEqual(fitted(1000, 200, 2), { left: 300, top: 0, width: 400, height: 200 });
});

test("a signal tells its followers once a change, until they stop", () => {
  const seen = [];
  const signal = new Signal(1);
  const stop = signal.follow((value) => seen.push(value));
  signal.value = 2;
  signal.value = 2;
  stop();
  signal.value = 3;
  assert.deepEqual(seen, [1, 2]);
});

test("a scope lets go of everything it listened to", () => {
  const scope = new Scope();
  const target = new EventTarget();
  let calls = 0;
  scope.listen(target, "tick", () => (calls += 1));
  target.dispatchEvent(new Event("tick"));
  scope.dispose();
  target.dispatchEvent(new Event("tick"));
  assert.equal(calls, 1);
});
