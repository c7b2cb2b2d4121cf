/**
 * Bending a drawing with a cage of 3 x 3 points, and drawing it. The same rule as in core/motion/bend.py; both are
 * tested on one table.
 *
 * @typedef {number[]} Bend 18 numbers: how far each point is pulled to the right and down, in hundredths of the drawing's width
 *   and height, row by row from the top left; none: not bent
 */

export const POINTS = 9;
/** The most that a point can be pulled. */
export const MOST = 80;
/** How far a drawing may be compressed. */
const FLATTEST = 0.04;
/** The number of squares in which a drawing is drawn, across and down. */
const SQUARES = 14;

const lagrange = (/** @type {number} */ t) => [(2 * t - 1) * (t - 1), 4 * t * (1 - t), t * (2 * t - 1)];
const slopes = (/** @type {number} */ t) => [4 * t - 3, 4 - 8 * t, 4 * t - 1];

/** The weighted pulls of the cage at a point. @param {Bend} bend @param {number[]} across @param {number[]} down */
function weighed(bend, across, down) {
  let [x, y] = [0, 0];
  for (let n = 0; n < POINTS; n += 1) {
    const weight = (across[n % 3] * down[Math.floor(n / 3)]) / 100;
    x += weight * bend[2 * n];
    y += weight * bend[2 * n + 1];
  }
  return [x, y];
}

/**
 * Where a point of a drawing moves to, in shares of its width and height. @param {Bend} bend @param {number} x @param
 * {number} y
 */
export function bentPoint(bend, x, y) {
  if (!bend.length) return [x, y];
  const [dx, dy] = weighed(bend, lagrange(x), lagrange(y));
  return [x + dx, y + dy];
}

/** Whether a drawing with this bend would fold over itself. */
export function folds(/** @type {Bend} */ bend) {
  if (!bend.length) return false;
  for (let n = 0; n < 81; n += 1) {
    const [x, y] = [(n % 9) / 8, Math.floor(n / 9) / 8];
    const [a, b] = weighed(bend, slopes(x), lagrange(y));
    const [c, d] = weighed(bend, lagrange(x), slopes(y));
    if ((1 + a) * (1 + d) - b * c < FLATTEST) return true;
  }
  return false;
}

/** The same bend, left for right. @param {Bend} bend */
export function mirroredBend(bend) {
  return bend.map((_, n) => {
    const [row, column, axis] = [Math.floor(n / 6), Math.floor((n % 6) / 2), n % 2];
    return bend[6 * row + 2 * (2 - column) + axis] * (axis ? 1 : -1);
  });
}

/** How far a bent drawing extends beyond its box, in shares: left, top, right, bottom, each 0 or more. */
export function reach(/** @type {Bend} */ bend) {
  const out = [0, 0, 0, 0];
  for (let n = 0; n <= 16; n += 1) {
    for (let m = 0; m <= 16; m += 1) {
      const [x, y] = bentPoint(bend, n / 16, m / 16);
      out[0] = Math.max(out[0], -x);
      out[1] = Math.max(out[1], -y);
      out[2] = Math.max(out[2], x - 1);
      out[3] = Math.max(out[3], y - 1);
    }
  }
  return out;
}

/**
 * Draw a bent picture in small triangles, each with its own affine map.
 * @param {CanvasRenderingContext2D} context
 * @param {CanvasImageSource} image
 * @param {number[]} size of the picture itself, in its own pixels
 * @param {number[]} box where it would lie if it were straight: left, top, width, height
 * @param {Bend} bend
 */
export function drawBent(context, image, size, box, bend) {
  const [left, top, width, height] = box;
  const at = (/** @type {number} */ n, /** @type {number} */ m) => {
    const [x, y] = bentPoint(bend, n / SQUARES, m / SQUARES);
    return [left + x * width, top + y * height];
  };
  const from = (/** @type {number} */ n, /** @type {number} */ m) => [(n / SQUARES) * size[0], (m / SQUARES) * size[1]];
  for (let n = 0; n < SQUARES; n += 1) {
    for (let m = 0; m < SQUARES; m += 1) {
      triangle(context, image, [from(n, m), from(n + 1, m), from(n, m + 1)], [at(n, m), at(n + 1, m), at(n, m + 1)]);
      triangle(
        context,
        image,
        [from(n + 1, m + 1), from(n, m + 1), from(n + 1, m)],
        [at(n + 1, m + 1), at(n, m + 1), at(n + 1, m)],
      );
    }
  }
}

/**
 * @param {CanvasRenderingContext2D} context @param {CanvasImageSource} image @param {number[][]} from @param
 * {number[][]} to
 */
function triangle(context, image, from, to) {
  const [[x0, y0], [x1, y1], [x2, y2]] = from;
  const [[u0, v0], [u1, v1], [u2, v2]] = to;
  const det = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0);
  const a = ((u1 - u0) * (y2 - y0) - (u2 - u0) * (y1 - y0)) / det;
  const c = ((u2 - u0) * (x1 - x0) - (u1 - u0) * (x2 - x0)) / det;
  const b = ((v1 - v0) * (y2 - y0) - (v2 - v0) * (y1 - y0)) / det;
  const d = ((v2 - v0) * (x1 - x0) - (v1 - v0) * (x2 - x0)) / det;
  context.save();
  context.beginPath();
  // Slightly enlarged, so that there are no seams.
  const [mx, my] = [(u0 + u1 + u2) / 3, (v0 + v1 + v2) / 3];
  for (const [u, v] of to) {
    const far = Math.hypot(u - mx, v - my) || 1;
    context.lineTo(u + ((u - mx) / far) * 0.6, v + ((v - my) / far) * 0.6);
  }
  context.clip();
  context.transform(a, b, c, d, u0 - a * x0 - c * y0, v0 - b * x0 - d * y0);
  context.drawImage(image, 0, 0);
  context.restore();
}
