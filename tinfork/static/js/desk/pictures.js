/** The drawings of a chart as images, with the box that their ink fills, for small pictures. */
export class Pictures {
  /** @param {import("./model.js").Drawing[]} drawings */
  constructor(drawings) {
    /** @type {Map<number, HTMLImageElement>} */
    this.images = new Map();
    this.box = { x: 0, y: 0, width: 1, height: 1 };
    this.ready = Promise.all(drawings.map((drawing) => this.load(drawing))).then(() => this.measure());
  }

  async load(/** @type {import("./model.js").Drawing} */ drawing) {
    const image = new Image();
    image.src = drawing.url;
    await image.decode().catch(() => {});
    this.images.set(drawing.number, image);
  }

  /** The union of what is not transparent, as shares of the canvas, with a little air. */
  measure() {
    const size = 100;
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = size;
    const context = canvas.getContext("2d", { willReadFrequently: true });
    if (!context) return;
    for (const image of this.images.values()) if (image.naturalWidth) context.drawImage(image, 0, 0, size, size);
    const { data } = context.getImageData(0, 0, size, size);
    let [left, top, right, bottom] = [size, size, 0, 0];
    for (let y = 0; y < size; y += 1) {
      for (let x = 0; x < size; x += 1) {
        if (data[4 * (y * size + x) + 3] > 8) {
          left = Math.min(left, x);
          right = Math.max(right, x + 1);
          top = Math.min(top, y);
          bottom = Math.max(bottom, y + 1);
        }
      }
    }
    if (right > left) {
      this.box = { x: (left - 2) / size, y: (top - 2) / size, width: (right - left + 4) / size, height: (bottom - top + 4) / size };
    }
  }

  /**
   * Draw a mouth into a box, whole and centred.
   * @param {CanvasRenderingContext2D} context
   * @param {number} number
   * @param {number} x
   * @param {number} y
   * @param {number} width
   * @param {number} height
   */
  draw(context, number, x, y, width, height) {
    const image = this.images.get(number);
    if (!image?.naturalWidth) return;
    const source = {
      x: this.box.x * image.naturalWidth,
      y: this.box.y * image.naturalHeight,
      width: this.box.width * image.naturalWidth,
      height: this.box.height * image.naturalHeight,
    };
    const scale = Math.min(width / source.width, height / source.height);
    const w = source.width * scale;
    const h = source.height * scale;
    context.drawImage(image, source.x, source.y, source.width, source.height, x + (width - w) / 2, y + (height - h) / 2, w, h);
  }
}
