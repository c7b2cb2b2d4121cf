/** Placing the mouth on the face, and registering its drawings: the Stage of the chart's page. */
import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";
import { fitted, lay, put } from "../lib/lay.js";
import { Scope } from "../lib/scope.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

class Placing {
  /**
   * @param {HTMLElement} root
   * @param {any} document_
   * @param {Scope} scope
   */
  constructor(root, document_, scope) {
    this.root = root;
    this.place = document_.place;
    this.save = document_.save;
    /** The set of mouths whose own face is shown, null for the character's face. */
    this.on = document_.on;
    this.hidden = Boolean(document_.hidden);
    this.drawings = document_.drawings;
    this.canChange = Boolean(root.dataset.canChange);
    this.stage = /** @type {HTMLElement} */ (root.querySelector("#stage"));
    this.sheet = /** @type {HTMLElement} */ (root.querySelector(".sheet-of-face"));
    this.part = (/** @type {string} */ name) => /** @type {any} */ (root.querySelector(`[data-part="${name}"]`));
    this.current = this.drawings.find((/** @type {any} */ d) => d.id !== document_.resting) || this.drawings[0];
    this.skin = this.drawings.find((/** @type {any} */ d) => d.id === document_.resting) || null;
    this.flipped = false;
    /** @type {Map<string, number>} what waits to be saved, by address */
    this.waiting = new Map();
    this.part("against").value = this.skin ? String(this.skin.id) : "";
    scope.onResize(this.stage, () => this.draw());
    scope.listen(root, "pointerdown", (event) => this.press(event));
    scope.listen(root, "click", (event) => this.click(event));
    scope.listen(root, "change", (event) => this.changed(event));
    scope.listen(this.stage, "keydown", (event) => this.key(event));
    scope.listen(document, "keydown", (event) => this.pick(event));
    this.choose(this.current.id);
  }

  /** @param {number} id */
  choose(id) {
    this.current = this.drawings.find((/** @type {any} */ d) => d.id === id) || this.current;
    for (const button of this.root.querySelectorAll(".tray [data-drawing]")) {
      if (/** @type {HTMLElement} */ (button).dataset.drawing === String(this.current.id))
        button.setAttribute("aria-current", "true");
      else button.removeAttribute("aria-current");
    }
    this.flipped = false;
    this.draw();
  }

  draw() {
    const room = this.stage.getBoundingClientRect();
    const box = fitted(room.width, room.height, this.place.aspect);
    Object.assign(this.sheet.style, { width: `${box.width}px`, height: `${box.height}px` });
    this.size = { width: box.width, height: box.height };
    this.laid = lay(this.place, this.current, box.width, box.height);
    this.show(this.part("mouth"), this.flipped && this.skin ? this.skin : this.current);
    this.show(this.part("skin"), this.flipped ? null : this.skin);
    put(this.part("frame"), this.laid);
    for (const name of ["mouth", "skin", "frame"]) this.part(name).hidden = this.hidden;
    const point = /** @type {HTMLElement} */ (this.part("frame").querySelector(".point"));
    point.style.left = `${(100 * (this.current.point[0] - this.current.offset[0])) / this.current.width}%`;
    point.style.top = `${(100 * (this.current.point[1] - this.current.offset[1])) / this.current.height}%`;
    this.fill();
  }

  /**
   * @param {HTMLElement} layer
   * @param {any} drawing
   */
  show(layer, drawing) {
    if (!drawing) {
      layer.replaceChildren();
      return;
    }
    let image = /** @type {HTMLImageElement | null} */ (layer.firstElementChild);
    if (!image) {
      image = new Image();
      image.alt = "";
      layer.append(image);
    }
    if (image.dataset.id !== String(drawing.id)) {
      image.src = drawing.url;
      image.dataset.id = String(drawing.id);
    }
    put(image, lay(this.place, drawing, this.size?.width || 1, this.size?.height || 1));
  }

  /** Update the number fields beside the Stage, except the one being edited. */
  fill() {
    const values = {
      x: 100 * this.place.x,
      y: 100 * this.place.y,
      width: 100 * this.place.width,
      angle: this.place.angle,
      point_x: this.current.point[0],
      point_y: this.current.point[1],
      offset_x: this.current.offset[0],
      offset_y: this.current.offset[1],
    };
    for (const [name, value] of Object.entries(values)) {
      const input = /** @type {HTMLInputElement} */ (this.root.querySelector(`[name="${name}"]`));
      if (input !== document.activeElement) input.value = String(Math.round(value * 10) / 10);
      input.disabled = !this.canChange;
    }
    this.part("number").textContent = String(this.current.number);
    this.part("name").textContent = this.current.name;
    this.root.dataset.drawing = String(this.current.number);
  }

  press(/** @type {PointerEvent} */ event) {
    const target = /** @type {HTMLElement} */ (event.target);
    if (!this.canChange || event.button || !target.closest(".frame") || !this.size || !this.laid) return;
    event.preventDefault();
    target.focus();
    const { width, height } = this.size;
    const start = { ...this.place };
    const sheet = this.sheet.getBoundingClientRect();
    const centre = { x: sheet.left + start.x * width, y: sheet.top + start.y * height };
    const from = { x: event.clientX - centre.x, y: event.clientY - centre.y };
    const handle = target.dataset.handle;
    drag(target, event, (now) => {
      const to = { x: now.clientX - centre.x, y: now.clientY - centre.y };
      if (handle === "scale") {
        this.setPlace({ width: start.width * (Math.hypot(to.x, to.y) / Math.max(8, Math.hypot(from.x, from.y))) });
      } else if (handle === "turn") {
        const turned = start.angle + ((Math.atan2(to.y, to.x) - Math.atan2(from.y, from.x)) * 180) / Math.PI;
        const angle = ((turned + 540) % 360) - 180;
        this.setPlace({ angle: now.shiftKey ? Math.round(angle / 15) * 15 : angle });
      } else {
        this.setPlace({ x: start.x + (to.x - from.x) / width, y: start.y + (to.y - from.y) / height });
      }
    });
  }

  /** @param {Partial<import("../lib/lay.js").Place>} change */
  setPlace(change) {
    Object.assign(this.place, change);
    this.place.x = Math.max(-0.5, Math.min(1.5, this.place.x));
    this.place.y = Math.max(-0.5, Math.min(1.5, this.place.y));
    this.place.width = Math.max(0.005, Math.min(3, this.place.width));
    this.place.angle = Math.max(-180, Math.min(180, this.place.angle));
    this.draw();
    const { x, y, width, angle } = this.place;
    this.keep(this.save, () => ({
      x,
      y,
      width,
      angle,
      chart: Number(this.root.dataset.chart),
      ...(this.on ? { face: this.on, hidden: Number(this.hidden) } : {}),
    }));
  }

  /**
   * @param {number[]} point
   * @param {number[]} offset
   */
  register(point, offset) {
    const { current } = this;
    current.point = point;
    current.offset = offset;
    this.draw();
    this.keep(current.register, () => ({
      point_x: current.point[0],
      point_y: current.point[1],
      offset_x: current.offset[0],
      offset_y: current.offset[1],
    }));
  }

  /**
   * Save shortly after the last change, so that a drag is one edit.
   * @param {string} address
   * @param {() => Record<string, number>} values
   */
  keep(address, values) {
    clearTimeout(this.waiting.get(address));
    this.part("saved").textContent = "…";
    this.waiting.set(
      address,
      window.setTimeout(() => this.send(address, values()), 250),
    );
  }

  /**
   * @param {string} address
   * @param {Record<string, number>} values
   */
  async send(address, values) {
    this.waiting.delete(address);
    let trouble = "";
    try {
      const body = new URLSearchParams(Object.entries(values).map(([name, value]) => [name, String(value)]));
      const response = await fetch(address, {
        method: "POST",
        body,
        headers: { "X-CSRFToken": this.root.dataset.csrf || "" },
        keepalive: true,
      });
      if (!response.ok)
        trouble = response.status === 422 ? (await response.json()).error : gettext("Not saved. Reload the page.");
    } catch {
      trouble = gettext(
        "Connection lost: the last change is not saved. Move the drawing again when you are back online.",
      );
    }
    this.part("trouble").textContent = trouble;
    if (!this.waiting.size) this.part("saved").textContent = trouble ? "" : gettext("Saved.");
  }

  /** @param {KeyboardEvent} event */
  key(event) {
    const target = /** @type {HTMLElement} */ (event.target);
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === " " && target === this.stage) {
      event.preventDefault();
      this.flip();
    }
    if (!step || !this.canChange) return;
    event.preventDefault();
    const by = event.shiftKey ? 10 : 1;
    if (target.dataset.handle === "scale")
      this.setPlace({ width: this.place.width * 1.01 ** (by * (step[0] - step[1])) });
    else if (target.dataset.handle === "turn") this.setPlace({ angle: this.place.angle + by * (step[0] + step[1]) });
    else
      this.register(this.current.point, [this.current.offset[0] + by * step[0], this.current.offset[1] + by * step[1]]);
  }

  /** A drawing's key selects it. */
  pick(/** @type {KeyboardEvent} */ event) {
    const target = /** @type {Element} */ (event.target);
    if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input, select, textarea")) return;
    const found = this.drawings.find((/** @type {any} */ d) => d.key && d.key === event.key.toLowerCase());
    if (found) this.choose(found.id);
  }

  click(/** @type {MouseEvent} */ event) {
    const button = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("button"));
    if (button?.dataset.drawing) this.choose(Number(button.dataset.drawing));
    else if (button?.dataset.do === "flip") this.flip();
    else if (button?.dataset.do === "centre" && this.canChange) this.register(this.current.point, [0, 0]);
  }

  /** Flip between this drawing and the onion skin's, to show jumps. */
  flip() {
    this.flipped = !this.flipped;
    this.draw();
  }

  changed(/** @type {Event} */ event) {
    const input = /** @type {HTMLInputElement} */ (event.target);
    if (input === this.part("faces")) {
      input.form?.submit();
      return;
    }
    if (input === this.part("seen")) {
      this.hidden = !input.checked;
      this.setPlace({});
      return;
    }
    if (input === this.part("against")) {
      this.skin = this.drawings.find((/** @type {any} */ d) => String(d.id) === input.value) || null;
      this.draw();
      return;
    }
    const value = Number(input.value);
    if (!input.value || !Number.isFinite(value)) {
      this.fill();
      return;
    }
    const { point, offset } = this.current;
    if (input.name === "angle") this.setPlace({ angle: value });
    else if (["x", "y", "width"].includes(input.name)) this.setPlace({ [input.name]: value / 100 });
    else if (input.name === "point_x") this.register([value, point[1]], offset);
    else if (input.name === "point_y") this.register([point[0], value], offset);
    else if (input.name === "offset_x") this.register(point, [value, offset[1]]);
    else if (input.name === "offset_y") this.register(point, [offset[0], value]);
  }
}

const scope = new Scope();
const data = find("#place-document");
if (data) {
  new Placing(find(".placing"), JSON.parse(data.textContent), scope);
  document.documentElement.dataset.place = "ready";
}
scope.listen(window, "pagehide", () => scope.dispose());
