/** The Stage: the character as it looks at the playhead, and the holds around it. */

import { fitted, lay, put } from "../lib/lay.js";

export class Stage {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("./transport.js").Transport}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.character = this.shot.characters[0];
    this.picture = /** @type {HTMLElement} */ (root.querySelector(".picture"));
    this.cards = /** @type {HTMLElement} */ (root.querySelector(".around"));
    /** @type {Map<number, HTMLImageElement>} */
    this.mouths = new Map();
    this.shown = -1;
    this.build();
    scope.onResize(root, () => this.layOut());
    scope.add(this.transport.frame.follow((frame) => this.show(frame)));
  }

  build() {
    if (this.character.face) {
      this.face = new Image();
      this.face.src = this.character.face;
      this.face.alt = this.character.name;
      this.face.className = "face";
      this.picture.append(this.face);
    }
    for (const drawing of this.character.drawings) {
      const image = new Image();
      image.src = drawing.url;
      image.alt = "";
      image.className = "mouth";
      image.hidden = true;
      this.picture.append(image);
      this.mouths.set(drawing.id, image);
    }
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
    const frame = fitted(room.width - 28, room.height - 116, this.shot.aspect);
    this.picture.style.width = `${frame.width}px`;
    this.picture.style.height = `${frame.height}px`;
    const { place } = this.character;
    const face = fitted(frame.width, frame.height, place.aspect);
    if (this.face) {
      Object.assign(this.face.style, { left: `${face.left}px`, top: `${face.top}px`, width: `${face.width}px`, height: `${face.height}px` });
    }
    for (const drawing of this.character.drawings) {
      put(/** @type {HTMLImageElement} */ (this.mouths.get(drawing.id)), lay(place, drawing, frame.width, frame.height));
    }
  }

  show(/** @type {number} */ frame) {
    const index = this.shot.holdIndex(this.character, frame);
    const hold = this.character.holds[index];
    this.root.dataset.frame = String(frame);
    if (index === this.shown) return;
    const before = this.character.holds[this.shown];
    if (before) /** @type {HTMLElement} */ (this.mouths.get(before.drawing)).hidden = true;
    /** @type {HTMLElement} */ (this.mouths.get(hold.drawing)).hidden = false;
    this.root.dataset.drawing = String(hold.drawing);
    this.shown = index;
    this.showAround(index);
  }

  showAround(/** @type {number} */ index) {
    for (const card of /** @type {Iterable<HTMLElement>} */ (this.cards.children)) {
      const hold = this.character.holds[index + Number(card.dataset.at)];
      card.style.visibility = hold ? "" : "hidden";
      if (!hold) continue;
      const drawing = this.shot.drawingOf(hold);
      card.dataset.frame = String(hold.start);
      /** @type {HTMLImageElement} */ (card.querySelector("img")).src = drawing.thumb;
      /** @type {HTMLElement} */ (card.querySelector(".no")).textContent = this.shot.label(hold);
      const last = hold.end - 1;
      const span = hold.start === last ? `${this.shot.number(last)}` : `${this.shot.number(hold.start)}–${this.shot.number(last)}`;
      /** @type {HTMLElement} */ (card.querySelector(".span")).textContent = span;
      card.title = `Drawing ${this.shot.label(hold)}, ${drawing.name}: frames ${span}`;
    }
  }
}
