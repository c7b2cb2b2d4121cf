/** The Stage: the shot's picture at the playhead, whole or close up, and the active column's holds around it. */

import { gettext } from "../lib/gettext.js";
import { closeUp, figureBox, fitted } from "../lib/lay.js";
import { bendOf, isNeutral, NEUTRAL, poseMatrix, poseOn } from "../lib/pose.js";
import { Signal } from "../lib/signal.js";
import { Variants } from "./boiling.js";
import { Layer } from "./layer.js";

/** One character: its face, mouth and other parts. */
class Figure {
  /**
   * @param {import("./model.js").Character} character
   * @param {import("./model.js").Shot} shot
   */
  constructor(character, shot) {
    this.character = character;
    this.shot = shot;
    this.element = document.createElement("div");
    this.element.className = "figure";
    this.element.dataset.character = String(character.id);
    /** The elements that move the whole figure, and everything on its face. */
    this.body = document.createElement("div");
    this.features = document.createElement("div");
    this.body.className = this.features.className = "moved";
    this.element.append(this.body);
    /** Poses set by a drag, by part. @type {Record<string, import("../lib/pose.js").Pose>} */
    this.dragged = {};
    /** Hidden passes, whose parts are at rest. @type {Set<string>} */
    this.hidden = new Set();
    /** The set whose face is shown; "" for the first set. */
    this.set = "";
    this.frame = { width: 16, height: 9 };
    this.box = { x: 0, y: 0, width: 16, height: 9 };
    /** The current frame, and the scale of the Stage. */
    this.at = 0;
    this.scale = 1;
    /** Variants by image. @type {Map<HTMLImageElement, Variants>} */
    this.variants = new Map();
    /** Visible variants. @type {Set<Variants>} */
    this.boiling = new Set();
    /** @type {Map<string | undefined, HTMLImageElement>} by the set that brings it; the character's own by none */
    this.faces = new Map();
    for (const [set, source] of [
      [undefined, character.face],
      ...Object.entries(character.faces).map(([name, { face }]) => [name, face]),
    ]) {
      const face = new Image();
      face.src = source || "";
      face.alt = character.name;
      face.draggable = false;
      face.className = "face";
      this.faces.set(set, face);
      this.body.append(face);
    }
    this.body.append(this.features);
    // Parts are under the mouth and pupils over the eyes, as in exports.
    const own = [...shot.characters, ...shot.fixed]
      .filter((column) => column.of === character.id)
      .sort((a, b) => Number(a.kind === "pupils") - Number(b.kind === "pupils") || Number(a.id) - Number(b.id));
    /** @type {Map<import("./model.js").Character, Layer>} */
    this.layers = new Map([...own, character].map((column) => [column, new Layer(column, shot, this.features)]));
  }

  get stand() {
    return this.shot.layout.stands[String(this.character.id)];
  }

  /** The aspect ratio of the visible face picture. */
  get aspect() {
    return this.placeOf(this.character)?.aspect || this.character.place.aspect;
  }

  /** The place of a column on the visible face; null if it is hidden. */
  placeOf(/** @type {import("./model.js").Character} */ column) {
    const own = column.faces[this.set];
    return own ? own.place : column.place;
  }

  /** Place it in a frame of this size. */
  layOut(/** @type {number} */ width, /** @type {number} */ height) {
    this.frame = { width, height };
    const shown = this.faces.get(this.set) || this.faces.get(undefined);
    for (const face of this.faces.values()) face.hidden = face !== shown;
    const box = figureBox(this.stand, this.aspect, width, height);
    Object.assign(this.element.style, {
      width: `${box.width}px`,
      height: `${box.height}px`,
      transform: `translate(${box.x - box.width / 2}px, ${box.y - box.height / 2}px) rotate(${this.stand.turn}deg) scaleX(${this.stand.mirrored ? -1 : 1})`,
      zIndex: String(100 + this.stand.depth),
    });
    this.box = box;
    for (const [column, layer] of this.layers) layer.layOut(this.placeOf(column), box.width, box.height);
    this.move(this.at);
  }

  /** The moving parts. */
  get parts() {
    return ["head", "face", ...[...this.layers.keys()].map((column) => (column.of ? String(column.id) : "mouth"))];
  }

  /** The pose of a part on a frame. */
  poseOf(/** @type {string} */ part, /** @type {number} */ frame) {
    if (this.hidden.has(part)) return NEUTRAL;
    return this.dragged[part] || poseOn(this.shot.keysOf(this.character.id, part), frame);
  }

  /** The centre of a part's movement, in pixels of the face picture. */
  pivotOf(/** @type {string} */ part) {
    const { width, height } = this.box;
    if (part === "head") return [width / 2, height];
    if (part === "face") return [width / 2, height / 2];
    const column = [...this.layers.keys()].find((one) => (one.of ? String(one.id) : "mouth") === part);
    const place = column && this.placeOf(column);
    return place ? [place.x * width, place.y * height] : [width / 2, height / 2];
  }

  /** Apply the poses of a frame. */
  move(/** @type {number} */ frame) {
    this.at = frame;
    const moved = /** @type {Array<[string, HTMLElement]>} */ ([
      ["head", this.body],
      ["face", this.features],
      ...[...this.layers].map(([column, layer]) => [column.of ? String(column.id) : "mouth", layer.element]),
    ]);
    for (const [part, element] of moved) {
      // Moving elements get their own compositor layer, so that they are not repainted for every frame.
      const own = this.dragged[part] || this.shot.keysOf(this.character.id, part).length ? "transform" : "";
      if (element.style.willChange !== own) element.style.willChange = own;
      const pose = this.poseOf(part, frame);
      const to = isNeutral(pose)
        ? ""
        : `matrix(${poseMatrix(pose, this.pivotOf(part), this.box.height)
            .map((n) => n.toFixed(6))
            .join(",")})`;
      if (element.style.transform !== to) element.style.transform = to;
    }
    this.bend();
  }

  /** Bend drawings as on the current frame. */
  bend() {
    for (const [column, layer] of this.layers)
      layer.bend(bendOf(this.poseOf(column.of ? String(column.id) : "mouth", this.at)), this.scale);
  }

  /** The variants or tracings of an image of a drawing or a face. */
  variantsOf(/** @type {HTMLImageElement} */ image, /** @type {import("./model.js").Drawing | undefined} */ drawing) {
    const found =
      this.variants.get(image) ||
      new Variants(
        image,
        () => drawing?.url || image.src,
        drawing ? drawing.wide : this.aspect,
        drawing ? drawing.tracings : this.tracingsOf(image),
        () => found && this.boiling.has(found) && this.boil(this.at),
      );
    this.variants.set(image, found);
    return found;
  }

  /** The tracings of the face in an image. */
  tracingsOf(/** @type {HTMLImageElement} */ image) {
    const set = [...this.faces].find(([, face]) => face === image)?.[0];
    return set === undefined ? this.character.tracings : this.character.faces[set].tracings;
  }

  /** The variants of visible images. */
  get seen() {
    const { strength } = this.shot.layout.boil;
    const out = [];
    const face = [...this.faces.values()].find((one) => !one.hidden);
    if (face && (strength || this.tracingsOf(face).length)) out.push(this.variantsOf(face, undefined));
    for (const layer of this.layers.values()) {
      const { image } = layer;
      const drawing = image && !image.classList.contains("unseen") ? layer.drawingOf(image) : undefined;
      if (image && drawing && (strength || drawing.tracings.length)) out.push(this.variantsOf(image, drawing));
    }
    return new Set(out);
  }

  /** Turn boiling on or off. */
  boil(/** @type {number} */ frame) {
    const { seen } = this;
    for (const variants of this.boiling) if (!seen.has(variants)) variants.hide();
    for (const variants of seen) variants.show(this.shot.layout.boil, frame);
    this.boiling = seen;
    this.bend();
  }

  /** Prefetch variants. */
  prepare() {
    const { strength } = this.shot.layout.boil;
    for (const layer of this.layers.values()) {
      for (const id of new Set(layer.column.holds.map((hold) => hold.drawing))) {
        const image = layer.images.get(id);
        const drawing = image && layer.drawingOf(image);
        if (image && drawing && (strength || drawing.tracings.length)) this.variantsOf(image, drawing).fetch(strength);
      }
    }
  }

  /** Update after the holds changed. */
  forget() {
    for (const layer of this.layers.values()) layer.shown = -1;
  }

  /** Show a frame; returns the columns whose drawing changed. */
  show(/** @type {number} */ frame) {
    const set = this.shot.setOf(this.shot.holdAt(this.character, frame));
    if (set !== this.set) {
      const isOther = (this.faces.get(set) || null) !== (this.faces.get(this.set) || null);
      this.set = set;
      if (isOther) this.layOut(this.frame.width, this.frame.height);
    }
    this.move(frame);
    const others = [...this.layers.values()].filter((layer) => layer.show(frame)).map((layer) => layer.column);
    this.boil(frame);
    return others;
  }
}

export class Stage {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.activeCharacter = parts.activeCharacter;
    /** Whether the active character is shown close up. */
    this.isClose = new Signal(false);
    this.picture = /** @type {HTMLElement} */ (root.querySelector(".picture"));
    this.world = /** @type {HTMLElement} */ (root.querySelector(".world"));
    this.behind = /** @type {HTMLImageElement} */ (root.querySelector(".behind"));
    this.cards = /** @type {HTMLElement} */ (root.querySelector(".around"));
    /** The transform of the close-up. */
    this.view = { x: 0, y: 0, scale: 1 };
    /** The displayed size of the picture in pixels. */
    this.size = { width: 16, height: 9 };
    this.figures = this.shot.characters.filter((one) => !one.of).map((character) => new Figure(character, this.shot));
    this.world.append(...this.figures.map((figure) => figure.element));
    this.build();
    scope.onResize(root, () => this.layOut());
    for (const figure of this.figures)
      scope.listen(figure.element, "pointerdown", () => (this.activeCharacter.value = figure.character));
    scope.add(this.activeCharacter.follow(() => this.showHand()));
    scope.add(this.isClose.follow(() => this.look()));
    scope.add(this.transport.frame.follow((frame) => this.show(frame)));
  }

  /** The figure of the active column. */
  get activeFigure() {
    const found = this.figures.find((figure) => figure.layers.has(this.activeCharacter.value));
    if (!found) throw new Error(gettext("The selected column is not on a face."));
    return found;
  }

  /** The layer of the active column. */
  get activeLayer() {
    return /** @type {Layer} */ (this.activeFigure.layers.get(this.activeCharacter.value));
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
    // Below the picture: the holds around the playhead, or the fields of moving.
    const fields = [...this.root.querySelectorAll(".under, #moving")];
    const under = fields.reduce((sum, one) => sum + /** @type {HTMLElement} */ (one).offsetHeight, 0);
    const [width, height] = [room.width - 20, room.height - under - 24];
    const beside = /** @type {HTMLElement} */ (this.root.querySelector(".beside"));
    let size = fitted(width, height, this.shot.aspect);
    const shown = /** @type {HTMLElement[]} */ ([...beside.children]).filter((one) => one.offsetWidth);
    if (shown.length) {
      // The reel and the camera are beside or above the picture, whichever makes it larger.
      const wide = Math.max(...shown.map((one) => one.offsetWidth));
      const high = Math.max(...shown.map((one) => one.offsetHeight));
      const [next, over] = [
        fitted(width - wide - 10, height, this.shot.aspect),
        fitted(width, height - high - 8, this.shot.aspect),
      ];
      size = over.width > next.width ? over : next;
      this.root.dataset.reel = over.width > next.width ? "over" : "beside";
    }
    // Whole pixels keep pictures sharp.
    this.size = { width: Math.max(16, Math.floor(size.width)), height: Math.max(9, Math.floor(size.height)) };
    for (const element of [this.picture, this.world])
      Object.assign(element.style, { width: `${this.size.width}px`, height: `${this.size.height}px` });
    // The fields below may have fractional heights.
    this.picture.style.translate = "";
    const { left, top } = this.picture.getBoundingClientRect();
    this.picture.style.translate = `${Math.round(left) - left}px ${Math.round(top) - top}px`;
    this.place();
  }

  /** Place all characters and the background. */
  place() {
    const { ground, background } = this.shot.layout;
    this.world.style.background = this.picture.style.background = ground;
    this.behind.hidden = !background;
    if (background && this.behind.getAttribute("src") !== background) this.behind.src = background;
    for (const figure of this.figures) {
      figure.layOut(this.size.width, this.size.height);
      // Load visible pictures first.
      figure.boil(figure.at);
      figure.prepare();
    }
    this.look();
  }

  /** Switch between the whole picture and a close-up of one character. */
  look() {
    this.root.dataset.view = this.isClose.value ? "close" : "shot";
    this.view = this.isClose.value
      ? closeUp(this.activeFigure.stand, this.activeFigure.aspect, this.size.width, this.size.height)
      : { x: 0, y: 0, scale: 1 };
    const { view } = this;
    this.world.style.transform = `translate(${view.x}px, ${view.y}px) scale(${view.scale})`;
    for (const figure of this.figures) {
      figure.scale = view.scale;
      figure.bend();
    }
  }

  showHand() {
    const { ink } = this.activeCharacter.value;
    this.root.className = `tint-${ink}`;
    for (const figure of this.figures)
      figure.element.classList.toggle("is-active", this.figures.length > 1 && figure === this.activeFigure);
    if (this.activeLayer.shown >= 0) this.showAround(this.activeLayer.shown);
    this.look();
    this.mark();
  }

  /** Apply all poses on the current frame. */
  move() {
    for (const figure of this.figures) figure.move(figure.at);
  }

  /** Update after holds or the layout changed. */
  refresh() {
    for (const figure of this.figures) figure.forget();
    this.place();
    this.show(this.transport.frame.value);
  }

  show(/** @type {number} */ frame) {
    this.root.dataset.frame = String(frame);
    for (const figure of this.figures)
      if (figure.show(frame).includes(this.activeCharacter.value)) this.showAround(this.activeLayer.shown);
    this.mark();
  }

  mark() {
    const { column, shown } = this.activeLayer;
    this.root.dataset.drawing = String(column.holds[Math.max(0, shown)]?.drawing ?? 0);
  }

  showAround(/** @type {number} */ index) {
    for (const card of /** @type {Iterable<HTMLElement>} */ (this.cards.children)) {
      const hold = this.activeCharacter.value.holds[index + Number(card.dataset.at)];
      card.style.visibility = hold ? "" : "hidden";
      if (!hold) continue;
      const drawing = this.shot.drawingOf(hold);
      card.dataset.frame = String(hold.start);
      const thumb = /** @type {HTMLImageElement} */ (card.querySelector("img"));
      thumb.hidden = !drawing.thumb;
      if (drawing.thumb) thumb.src = drawing.thumb;
      /** @type {HTMLElement} */ (card.querySelector(".no")).textContent = this.shot.label(hold);
      const last = hold.end - 1;
      const span =
        hold.start === last ? `${this.shot.number(last)}` : `${this.shot.number(hold.start)}–${this.shot.number(last)}`;
      /** @type {HTMLElement} */ (card.querySelector(".span")).textContent = span;
      card.title = gettext("Drawing {hold}, {name}: frames {span}", {
        hold: this.shot.label(hold),
        name: drawing.name,
        span,
      });
    }
  }
}
