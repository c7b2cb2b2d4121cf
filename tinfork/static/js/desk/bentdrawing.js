/** A bent drawing, on a canvas that replaces its image. */
import { drawBent, reach } from "../lib/bend.js";

export class BentDrawing {
  constructor() {
    this.canvas = document.createElement("canvas");
    this.canvas.className = "bent";
    this.drawn = "";
    /** The rasterised picture, so that a vector is not rendered for each triangle. */
    this.source = document.createElement("canvas");
    this.held = "";
  }

  /**
   * @param {HTMLImageElement} image
   * @param {import("../lib/lay.js").Laid} laid where it would lie if it were straight
   * @param {import("../lib/bend.js").Bend} bend
   * @param {number} scale how large the Stage shows it
   */
  show(image, laid, bend, scale) {
    if (!image.complete || !image.naturalWidth) {
      image.addEventListener("load", () => this.show(image, laid, bend, scale), { once: true });
      return;
    }
    const fine = Math.max(1, scale) * window.devicePixelRatio;
    const [width, height] = [Math.max(1, Math.round(laid.width * fine)), Math.max(1, Math.round(laid.height * fine))];
    const wanted = [image.src, width, height, laid.x, laid.y, laid.angle, ...bend].join(" ");
    if (wanted === this.drawn) return;
    this.drawn = wanted;
    this.hold(image, width, height);
    const [left, top, right, bottom] = reach(bend);
    // Equal margins on both sides, so that the centre of rotation stays in the middle.
    const [across, down] = [
      Math.ceil(Math.max(left, right) * width) + 2,
      Math.ceil(Math.max(top, bottom) * height) + 2,
    ];
    const { canvas } = this;
    [canvas.width, canvas.height] = [width + 2 * across, height + 2 * down];
    Object.assign(canvas.style, {
      left: `${laid.x}px`,
      top: `${laid.y}px`,
      width: `${canvas.width / fine}px`,
      height: `${canvas.height / fine}px`,
      transform: `translate(-50%, -50%) rotate(${laid.angle}deg)`,
    });
    const context = canvas.getContext("2d");
    if (context) drawBent(context, this.source, [width, height], [across, down, width, height], bend);
  }

  hold(/** @type {HTMLImageElement} */ image, /** @type {number} */ width, /** @type {number} */ height) {
    const held = `${image.src} ${width} ${height}`;
    if (held === this.held) return;
    this.held = held;
    [this.source.width, this.source.height] = [width, height];
    this.source.getContext("2d")?.drawImage(image, 0, 0, width, height);
  }
}
