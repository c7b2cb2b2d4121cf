import assert from "node:assert/strict";
import { test } from "node:test";
import { halvedTo } from "../../tinfork/static/js/lib/halving.js";

/** What was drawn: how wide and high the source was, and the canvas that it was drawn on. */
const drawn = [];
const sizeOf = (picture) => [picture.naturalWidth ?? picture.width, picture.naturalHeight ?? picture.height];

globalThis.document = {
  createElement: () => ({
    getContext() {
      return { drawImage: (source, x, y, width, height) => drawn.push({ from: sizeOf(source), at: [x, y], to: [width, height], on: sizeOf(this) }) };
    },
  }),
};

const picture = (naturalWidth, naturalHeight) => ({ naturalWidth, naturalHeight });

test("no step makes a picture smaller than half, and the last one to draw is nearer than that to the wanted size", () => {
  for (const wide of [1, 2, 3, 31, 320, 321, 1999]) {
    for (const high of [1, 7, 240, 3000]) {
      for (const wanted of [0.4, 1, 5.5, 22, 160, 161, 320, 5000]) {
        drawn.length = 0;
        const [found] = sizeOf(halvedTo(picture(wide, high), wanted));
        assert.ok(found < 2 * wanted || found === 1, `${found} wide for ${wanted}`);
        assert.ok(found >= Math.min(wide, wanted), `${found} wide for ${wanted} from ${wide}`);
        for (const { from, at, to, on } of drawn) {
          assert.ok(from[0] <= 2 * to[0] && from[1] <= 2 * to[1], `${from} was drawn at ${to}`);
          assert.deepEqual([at, to], [[0, 0], on], "the whole canvas is drawn on");
        }
      }
    }
  }
});

test("a picture is halved once, however often it is drawn", () => {
  const image = picture(320, 240);
  drawn.length = 0;
  const small = halvedTo(image, 22);
  assert.deepEqual(drawn.map(({ to }) => to), [[160, 120], [80, 60], [40, 30]]);
  assert.equal(halvedTo(image, 22), small);
  assert.equal(halvedTo(image, 200), image);
  assert.equal(drawn.length, 3);
});
