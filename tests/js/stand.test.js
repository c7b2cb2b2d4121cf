import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { closeUp, figureBox } from "../../tinfork/static/js/lib/lay.js";

const golden = JSON.parse(readFileSync(new URL("../golden/stand.json", import.meta.url), "utf8"));

/** Where corners of a figure come to lie, as the page's styles turn and mirror it. */
function corners(stand, box) {
  const turn = (stand.turn * Math.PI) / 180;
  const flip = stand.mirrored ? -1 : 1;
  return [-1, 1].flatMap((side) => {
    const [across, down] = [(flip * side * box.width) / 2, (side * box.height) / 2];
    return [box.x + across * Math.cos(turn) - down * Math.sin(turn), box.y + across * Math.sin(turn) + down * Math.cos(turn)];
  });
}

test("figures stand where the core has them", () => {
  assert.ok(golden.length > 50);
  for (const { frame, aspect, stand, corners: wanted } of golden) {
    const box = figureBox(stand, aspect, frame[0], frame[1]);
    [...corners(stand, box), box.width, box.height].forEach((value, at) => assert.ok(Math.abs(value - wanted[at]) < 1e-6));
  }
});

test("close up, a figure is whole and in the middle", () => {
  for (const { frame, aspect, stand } of golden) {
    const view = closeUp(stand, aspect, frame[0], frame[1]);
    const box = figureBox(stand, aspect, frame[0], frame[1]);
    assert.ok(Math.abs(box.x * view.scale + view.x - frame[0] / 2) < 1e-6);
    assert.ok(Math.max((box.width * view.scale) / frame[0], (box.height * view.scale) / frame[1]) - 1 < 1e-9);
  }
});
