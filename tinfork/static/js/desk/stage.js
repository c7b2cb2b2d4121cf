/** The Stage: the characters as they look at the playhead, and the holds around it of the one in hand. */

import { fitted, lay, put } from "../lib/lay.js";

/** One character: its face, and the one mouth that is due. */
class Face {
  /**
   * @param {import("./model.js").Character} character
   * @param {import("./model.js").Shot} shot
   */
  constructor(character, shot) {
    this.character = character;
    this.shot = shot;
    this.element = document.createElement("div");
    this.element.className = "picture";
    this.element.dataset.character = String(character.id);
    /** @type {Map<number, HTMLImageElement>} */
    this.mouths = new Map();
    this.shown = -1;
    /** @type {HTMLImageElement | null} the mouth in sight */
    this.image = null;
    if (character.face) {
      this.face = new Image();
      this.face.src = character.face;
      this.face.alt = character.name;
      this.face.className = "face";
      this.element.append(this.face);
    }
    for (const drawing of character.drawings) {
      const image = new Image();
      image.src = drawing.url;
      image.alt = "";
      image.className = "mouth";
      image.hidden = true;
      this.element.append(image);
      this.mouths.set(drawing.id, image);
    }
  }

  layOut(/** @type {{width: number, height: number}} */ frame) {
    this.element.style.width = `${frame.width}px`;
    this.element.style.height = `${frame.height}px`;
    const { place } = this.character;
    const face = fitted(frame.width, frame.height, place.aspect);
    if (this.face) {
      Object.assign(this.face.style, { left: `${face.left}px`, top: `${face.top}px`, width: `${face.width}px`, height: `${face.height}px` });
    }
    for (const drawing of this.character.drawings) {
      put(/** @type {HTMLImageElement} */ (this.mouths.get(drawing.id)), lay(place, drawing, frame.width, frame.height));
    }
  }

  /** Show the mouth of a frame; true when it is another one. */
  show(/** @type {number} */ frame) {
    const index = this.shot.holdIndex(this.character, frame);
    if (index === this.shown) return false;
    const hold = this.character.holds[index];
    const image = this.mouths.get(hold.drawing) || null;
    if (this.image) this.image.hidden = true;
    if (image) image.hidden = false;
    this.image = image;
    this.element.dataset.drawing = String(hold.drawing);
    this.shown = index;
    return true;
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
   * @param {{shot: import("./model.js").Shot, transport: import("./transport.js").Transport,
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
    this.faces = this.shot.characters.map((character) => new Face(character, this.shot));
    this.place.append(...this.faces.map((face) => face.element));
    this.build();
    scope.onResize(root, () => this.layOut());
    for (const face of this.faces) scope.listen(face.element, "click", () => (this.hand.value = face.character));
    scope.add(this.hand.follow(() => this.showHand()));
    scope.add(this.transport.frame.follow((frame) => this.show(frame)));
  }

  get faceInHand() {
    return /** @type {Face} */ (this.faces.find((face) => face.character === this.hand.value));
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
    for (const face of this.faces) face.element.classList.toggle("in-hand", this.faces.length > 1 && face.character === this.hand.value);
    if (this.faceInHand.shown >= 0) this.showAround(this.faceInHand.shown);
    this.mark();
  }

  /** The holds are others now. */
  refresh() {
    for (const face of this.faces) face.shown = -1;
    this.show(this.transport.frame.value);
  }

  show(/** @type {number} */ frame) {
    this.root.dataset.frame = String(frame);
    for (const face of this.faces) {
      if (face.show(frame) && face === this.faceInHand) this.showAround(face.shown);
    }
    this.mark();
  }

  mark() {
    this.root.dataset.drawing = this.faceInHand.element.dataset.drawing;
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
