/** The Stage: the characters as they look at the playhead, and the holds around it of the one in hand. */

import { fitted, lay, put } from "../lib/lay.js";

/** The drawings of one column on a face: a mouth, eyes; the one that is due is seen. */
class Layer {
  /**
   * @param {import("./model.js").Character} column
   * @param {import("./model.js").Shot} shot
   * @param {HTMLElement} onto
   */
  constructor(column, shot, onto) {
    this.column = column;
    this.shot = shot;
    /** @type {Map<number, HTMLImageElement>} */
    this.images = new Map();
    this.shown = -1;
    /** @type {HTMLImageElement | null} the drawing in sight */
    this.image = null;
    for (const drawing of column.drawings) {
      const image = new Image();
      image.fetchPriority = "low";
      image.src = drawing.url;
      image.alt = "";
      image.className = column.of ? "part" : "mouth";
      image.hidden = true;
      onto.append(image);
      this.images.set(drawing.id, image);
    }
  }

  layOut(/** @type {{width: number, height: number}} */ frame) {
    for (const drawing of this.column.drawings) {
      put(/** @type {HTMLImageElement} */ (this.images.get(drawing.id)), lay(this.column.place, drawing, frame.width, frame.height));
    }
  }

  /** Show the drawing of a frame; true when it is another one. */
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

/** One character: its face, its mouth, and what else is drawn on it. */
class Face {
  /**
   * @param {import("./model.js").Character} character
   * @param {import("./model.js").Shot} shot
   */
  constructor(character, shot) {
    this.character = character;
    this.element = document.createElement("div");
    this.element.className = "picture";
    this.element.dataset.character = String(character.id);
    if (character.face) {
      this.face = new Image();
      this.face.src = character.face;
      this.face.alt = character.name;
      this.face.className = "face";
      this.element.append(this.face);
    }
    const own = shot.characters.filter((column) => column === character || column.of === character.id);
    /** @type {Map<import("./model.js").Character, Layer>} */
    this.layers = new Map(own.map((column) => [column, new Layer(column, shot, this.element)]));
  }

  layOut(/** @type {{width: number, height: number}} */ frame) {
    this.element.style.width = `${frame.width}px`;
    this.element.style.height = `${frame.height}px`;
    const face = fitted(frame.width, frame.height, this.character.place.aspect);
    if (this.face) {
      Object.assign(this.face.style, { left: `${face.left}px`, top: `${face.top}px`, width: `${face.width}px`, height: `${face.height}px` });
    }
    for (const layer of this.layers.values()) layer.layOut(frame);
  }

  /** The holds are others now. */
  forget() {
    for (const layer of this.layers.values()) layer.shown = -1;
  }

  /** Show what is due on a frame; gives the columns that show another drawing. */
  show(/** @type {number} */ frame) {
    return [...this.layers.values()].filter((layer) => layer.show(frame)).map((layer) => layer.column);
  }
}

/** How many faces stand beside each other so that they are largest. */
function columnsFor(/** @type {number} */ count, /** @type {number} */ width, /** @type {number} */ height, /** @type {number} */ aspect) {
  let best = 1;
  let most = 0;
  for (let columns = 1; columns <= count; columns += 1) {
    const size = fitted(width / columns, height / Math.ceil(count / columns), aspect).width;
    if (size > most + 1) [best, most] = [columns, size];
  }
  return best;
}

export class Stage {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   hand: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.hand = parts.hand;
    this.place = /** @type {HTMLElement} */ (root.querySelector(".pictures"));
    this.cards = /** @type {HTMLElement} */ (root.querySelector(".around"));
    this.faces = this.shot.characters.filter((one) => !one.of).map((character) => new Face(character, this.shot));
    this.place.append(...this.faces.map((face) => face.element));
    this.build();
    scope.onResize(root, () => this.layOut());
    for (const face of this.faces) scope.listen(face.element, "click", () => (this.hand.value = face.character));
    scope.add(this.hand.follow(() => this.showHand()));
    scope.add(this.transport.frame.follow((frame) => this.show(frame)));
  }

  /** What is drawn of the column in hand. */
  get layerInHand() {
    for (const face of this.faces) {
      const found = face.layers.get(this.hand.value);
      if (found) return found;
    }
    throw new Error("The column in hand is on no face.");
  }

  build() {
    const template = /** @type {HTMLTemplateElement} */ (this.root.querySelector("template"));
    for (let at = -2; at <= 2; at += 1) {
      const card = /** @type {HTMLElement} */ (template.content.firstElementChild?.cloneNode(true));
      card.dataset.at = String(at);
      card.addEventListener("click", () => card.dataset.frame && this.transport.seek(Number(card.dataset.frame)));
      this.cards.append(card);
    }
  }

  layOut() {
    const room = this.root.getBoundingClientRect();
    const reel = this.root.querySelector("#reel")?.getBoundingClientRect().width || 0;
    const [width, height] = [room.width - 28 - (reel && reel + 10), room.height - 116];
    const columns = columnsFor(this.faces.length, width, height, this.shot.aspect);
    const rows = Math.ceil(this.faces.length / columns);
    const frame = fitted(width / columns - (columns - 1) * 4, height / rows - (rows - 1) * 4, this.shot.aspect);
    this.place.style.gridTemplateColumns = `repeat(${columns}, auto)`;
    for (const face of this.faces) face.layOut(frame);
  }

  showHand() {
    const { ink } = this.hand.value;
    this.root.className = `tint-${ink}`;
    for (const face of this.faces) face.element.classList.toggle("in-hand", this.faces.length > 1 && face.layers.has(this.hand.value));
    if (this.layerInHand.shown >= 0) this.showAround(this.layerInHand.shown);
    this.mark();
  }

  /** The holds are others now. */
  refresh() {
    for (const face of this.faces) face.forget();
    this.show(this.transport.frame.value);
  }

  show(/** @type {number} */ frame) {
    this.root.dataset.frame = String(frame);
    for (const face of this.faces) if (face.show(frame).includes(this.hand.value)) this.showAround(this.layerInHand.shown);
    this.mark();
  }

  mark() {
    const { column, shown } = this.layerInHand;
    this.root.dataset.drawing = String(column.holds[Math.max(0, shown)]?.drawing ?? 0);
  }

  showAround(/** @type {number} */ index) {
    for (const card of /** @type {Iterable<HTMLElement>} */ (this.cards.children)) {
      const hold = this.hand.value.holds[index + Number(card.dataset.at)];
      card.style.visibility = hold ? "" : "hidden";
      if (!hold) continue;
      const drawing = this.shot.drawingOf(hold);
      card.dataset.frame = String(hold.start);
      const thumb = /** @type {HTMLImageElement} */ (card.querySelector("img"));
      thumb.hidden = !drawing.thumb;
      if (drawing.thumb) thumb.src = drawing.thumb;
      /** @type {HTMLElement} */ (card.querySelector(".no")).textContent = this.shot.label(hold);
      const last = hold.end - 1;
      const span = hold.start === last ? `${this.shot.number(last)}` : `${this.shot.number(hold.start)}–${this.shot.number(last)}`;
      /** @type {HTMLElement} */ (card.querySelector(".span")).textContent = span;
      card.title = `Drawing ${this.shot.label(hold)}, ${drawing.name}: frames ${span}`;
    }
  }
}
