import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { bentPoint, folds, mirroredBend, reach } from "../../tinfork/static/js/lib/bend.js";
import { poseMatrix, poseOf, poseOn } from "../../tinfork/static/js/lib/pose.js";
import { editedKeys } from "../../tinfork/static/js/desk/motionedits.js";

const read = (name) => JSON.parse(readFileSync(new URL(`../golden/${name}.json`, import.meta.url), "utf8"));
const close = (found, wanted, what) => found.forEach((value, n) => assert.ok(Math.abs(value - wanted[n]) <= 1e-6 * Math.max(1, Math.abs(wanted[n])), `${what}: ${found} for ${wanted}`));

test("what is between keys is what the core shows", () => {
  for (const one of read("poses").curves) {
    const keys = one.keys.map(([frame, pose, way, step, isProposed]) => ({ frame, pose, way, step, by: isProposed ? "a rule" : "" }));
    one.poses.forEach((pose, frame) => close(poseOn(keys, frame), pose, `frame ${frame} of ${JSON.stringify(one.keys)}`));
  }
  assert.deepEqual(poseOn([], 4), [0, 0, 0, 0, 0, 0]);
});

const long = (pose) => [...pose, ...new Array(24 - pose.length).fill(0)];

test("what is bent is bent between keys as the core shows it, and straight keys are bent by nothing", () => {
  for (const one of read("poses").bent) {
    const keys = one.keys.map(([frame, pose, way, step, isProposed]) => ({ frame, pose, way, step, by: isProposed ? "a rule" : "" }));
    one.poses.forEach((pose, frame) => close(long(poseOn(keys, frame)), long(pose), `frame ${frame} of ${JSON.stringify(one.keys)}`));
  }
});

test("points of a bent drawing go where the core has them go, and it folds where the core says so", () => {
  const { bends } = read("poses");
  for (const { bend, points, folds: wanted } of bends) {
    for (const [x, y, ...to] of points) close(bentPoint(bend, x, y), to, JSON.stringify(bend));
    if (wanted !== null) assert.equal(folds(bend), wanted, JSON.stringify(bend));
    assert.deepEqual(mirroredBend(mirroredBend(bend)).map((pull) => pull + 0), bend.map((pull) => pull + 0));
    const [left, right] = [bentPoint(bend, 0.3, 0.6), bentPoint(mirroredBend(bend), 0.7, 0.6)];
    close([1 - left[0], left[1]], right, JSON.stringify(bend));
  }
  assert.ok(bends.some((one) => one.folds) && bends.some((one) => one.folds === false));
  assert.deepEqual(bentPoint([], 0.2, 0.4), [0.2, 0.4]);
  // Pulled as a whole it reaches out by as much on one side.
  close(reach(new Array(9).fill([20, -10]).flat()), [0, 0.1, 0.2, 0], "reach");
});

test("a pose is the same map of pixels as in the core", () => {
  for (const one of read("poses").matrices) close(poseMatrix(one.pose, one.pivot, one.height), one.matrix, JSON.stringify(one));
});

test("keys are edited at once as the server edits them, and nothing is drawn of what it refuses", () => {
  const golden = read("motion");
  let [done, refused] = [0, 0];
  for (const { keys, cases } of golden.columns) {
    const column = keys.map((k) => ({ frame: k.frame, pose: poseOf(k), way: k.way, step: k.step, by: "" }));
    for (const [name, parameters, wanted] of cases) {
      const found = editedKeys(column, name, parameters, golden.frames);
      const what = `${name} ${JSON.stringify(parameters)} on ${JSON.stringify(keys)}`;
      if (!wanted) {
        refused += 1;
        assert.equal(found, null, what);
        continue;
      }
      done += 1;
      assert.deepEqual(found.map((k) => [k.frame, k.pose, k.way, k.step]), wanted, what);
    }
  }
  assert.ok(done > 400 && refused > 100, `${done} ${refused}`);
  assert.equal(editedKeys([], "pin", {}, 10), null);
});
