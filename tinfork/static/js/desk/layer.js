/** The drawings of one column on a face, like a mouth or eyes; shows the one of a frame, with its bend. */
import { lay, put } from "../lib/lay.js";
import { BentDrawing } from "./bentdrawing.js";

export class Layer {
  /**
   * @param {import("./model.js").Character} column
   * @param {import("./model.js").Shot} shot
   * @param {HTMLElement} onto
   */
  constructor(column, shot, onto) {
    this.column = column;
    this.shot = shot;
    /** @type {import("../lib/lay.js").Place | null} */
    this.place = null;
    this.size = { width: 16, height: 9 };
    /** @type {Map<number, HTMLImageElement>} */
    this.images = new Map();
    this.shown = -1;
    /** @type {HTMLImageElement | null} the drawing in sight */
    this.image = null;
    this.bent = new BentDrawing();
    /** The element that moves it on the face. */
    this.element = document.createElement("div");
    this.element.className = "moved";
    this.element.append(this.bent.canvas);
    onto.append(this.element);
    for (const drawing of column.drawings) {
      const image = new Image();
      image.fetchPriority = "low";
      image.src = drawing.picture;
      image.alt = "";
      image.draggable = false;
      image.className = column.of ? "part" : "mouth";
      image.hidden = true;
      this.element.append(image);
      this.images.set(drawing.id, image);
    }
  }

  /** Place it on a face of a size; without a place it is hidden. */
  layOut(
    /** @type {import("../lib/lay.js").Place | null} */ place,
    /** @type {number} */ width,
    /** @type {number} */ height,
  ) {
    for (const drawing of this.column.drawings) {
      const image = /** @type {HTMLImageElement} */ (this.images.get(drawing.id));
      image.classList.toggle("unseen", !place);
      if (place) put(image, lay(place, drawing, width, height));
    }
    this.place = place;
    this.size = { width, height };
  }

  /** The position of the visible drawing on the face. */
  get laid() {
    const drawing = this.image && this.drawingOf(this.image);
    return drawing && this.place ? lay(this.place, drawing, this.size.width, this.size.height) : null;
  }

  /** Bend the visible drawing. */
  bend(/** @type {import("../lib/bend.js").Bend} */ bend, /** @type {number} */ scale) {
    const isBent = bend.length > 0 && Boolean(this.laid);
    this.element.classList.toggle("is-bent", isBent);
    // A tracing or variant may be shown instead of it.
    const image = [...this.element.querySelectorAll("img")].find(
      (one) => !one.hidden && !one.classList.contains("boils") && !one.classList.contains("unseen"),
    );
    if (isBent && image && this.laid) this.bent.show(image, this.laid, bend, scale);
  }

  /** The drawing of an image. */
  drawingOf(/** @type {HTMLImageElement} */ image) {
    return this.column.drawings.find((drawing) => this.images.get(drawing.id) === image);
  }

  /** Show the drawing of a frame; returns whether it changed. */
  show(/** @type {number} */ frame) {
    const index = this.shot.holdIndex(this.column, frame);
    if (index === this.shown) return false;
    const image = this.images.get(this.column.holds[index].drawing) || null;
    if (this.image) this.image.hidden = true;
    if (image) image.hidden = false;
    this.image = image;
    this.shown = index;
    return true;
  }
}
