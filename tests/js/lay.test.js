import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { lay } from "../../tinfork/static/js/lib/lay.js";

const golden = JSON.parse(readFileSync(new URL("../golden/lay.json", import.meta.url), "utf8"));

test("the golden places shared with the core", () => {
  for (const { frame, place, drawing, laid } of golden) {
    const found = lay(place, drawing, frame[0], frame[1]);
    [found.x, found.y, found.width, found.height, found.angle].forEach((value, at) => {
      assert.ok(Math.abs(value - laid[at]) < 1e-6, `${value} is not ${laid[at]}`);
    });
  }
});
