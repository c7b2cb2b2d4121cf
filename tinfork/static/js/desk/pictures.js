/** The drawings of a character as registered images, with the common box of their ink, for thumbnails. */

import { halvedTo } from "../lib/halving.js";

/** The canvas of a drawing relative to its registration point, in usual canvases. */
const around = (/** @type {import("./model.js").Drawing} */ d) => ({
  left: (d.offset[0] - d.point[0]) / d.canvas,
  top: (d.offset[1] - d.point[1]) / d.canvas,
  right: (d.offset[0] - d.point[0] + d.width) / d.canvas,
  bottom: (d.offset[1] - d.point[1] + d.height) / d.canvas,
});

/** The delays before a failed picture is requested again (milliseconds). */
const AGAIN_MS = [500, 1000, 2000, 4000, 8000, 16_000];

export class Pictures {
  /**
   * @param {import("./model.js").Drawing[]} drawings
   * @param {() => void} [late] a picture that could not be fetched at first is there
   */
  constructor(drawings, late = () => {}) {
    this.late = late;
    this.drawings = new Map(drawings.map((drawing) => [drawing.id, drawing]));
    /** @type {Map<number, HTMLImageElement>} */
    this.images = new Map();
    this.box = { x: 0, y: 0, width: 1, height: 1 };
    this.isMeasured = false;
    this.ready = Promise.all(drawings.map((drawing) => this.load(drawing))).then(() => {
      this.measure();
      this.isMeasured = true;
    });
  }

  async load(/** @type {import("./model.js").Drawing} */ drawing, tries = 0) {
    const image = new Image();
    image.fetchPriority = "low";
    image.src = drawing.thumb;
    const isThere = await image.decode().then(
      () => true,
      () => false,
    );
    this.images.set(drawing.id, image);
    if (isThere && tries) {
      this.measure();
      this.late();
    } else if (!isThere && tries < AGAIN_MS.length) setTimeout(() => this.load(drawing, tries + 1), AGAIN_MS[tries]);
  }

  /** The union of all ink around the registration point, with a small margin. */
  measure() {
    const size = 100;
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = size;
    const context = canvas.getContext("2d", { willReadFrequently: true });
    const all = [...this.drawings.values()].map(around);
    if (!context || !all.length) return;
    const x = Math.min(...all.map((b) => b.left));
    const y = Math.min(...all.map((b) => b.top));
    const width = Math.max(...all.map((b) => b.right)) - x;
    const height = Math.max(...all.map((b) => b.bottom)) - y;
    for (const [id, image] of this.images) {
      const lies = around(/** @type {import("./model.js").Drawing} */ (this.drawings.get(id)));
      const [across, down] = [size / width, size / height];
      if (image.naturalWidth) {
        context.drawImage(
          image,
          (lies.left - x) * across,
          (lies.top - y) * down,
          (lies.right - lies.left) * across,
          (lies.bottom - lies.top) * down,
        );
      }
    }
    const ink = inkOf(context.getImageData(0, 0, size, size).data, size);
    if (ink.right <= ink.left) return;
    this.box = {
      x: x + (ink.left - 2) * (width / size),
      y: y + (ink.top - 2) * (height / size),
      width: (ink.right - ink.left + 4) * (width / size),
      height: (ink.bottom - ink.top + 4) * (height / size),
    };
  }

  /**
   * Draw a whole mouth into a box, in register.
   * @param {CanvasRenderingContext2D} context
   * @param {number} id
   * @param {number} x
   * @param {number} y
   * @param {number} width
   * @param {number} height
   */
  draw(context, id, x, y, width, height) {
    const image = this.images.get(id);
    const drawing = this.drawings.get(id);
    if (!this.isMeasured || !image?.naturalWidth || !drawing) return;
    const scale = Math.min(width / this.box.width, height / this.box.height);
    const lies = around(drawing);
    const left = x + (width - this.box.width * scale) / 2 + (lies.left - this.box.x) * scale;
    const top = y + (height - this.box.height * scale) / 2 + (lies.top - this.box.y) * scale;
    context.save();
    context.beginPath();
    context.rect(x, y, width, height);
    context.clip();
    const wide = (lies.right - lies.left) * scale;
    context.drawImage(
      halvedTo(image, wide * context.getTransform().a),
      left,
      top,
      wide,
      (lies.bottom - lies.top) * scale,
    );
    context.restore();
  }
}

/**
 * The bounding box of the ink in square pixel data.
 * @param {Uint8ClampedArray} data
 * @param {number} size
 */
function inkOf(data, size) {
  const ink = { left: size, top: size, right: 0, bottom: 0 };
  for (let y = 0; y < size; y += 1) {
    for (let x = 0; x < size; x += 1) {
      if (data[4 * (y * size + x) + 3] > 8) {
        ink.left = Math.min(ink.left, x);
        ink.right = Math.max(ink.right, x + 1);
        ink.top = Math.min(ink.top, y);
        ink.bottom = Math.max(ink.bottom, y + 1);
      }
    }
  }
  return ink;
}
