/** Boxes on a page of drawings: moving, resizing, drawing, merging and deleting those that the server found. */
import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";
import { Scope } from "../lib/scope.js";

/** @typedef {[number, number, number, number]} Box left, top, right, bottom in pixels of the page */

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

class Cutting {
  /**
   * @param {HTMLFormElement} form
   * @param {{width: number, height: number, boxes: Box[]}} page
   * @param {Scope} scope
   */
  constructor(form, page, scope) {
    this.form = form;
    this.page = page;
    /** @type {Box[]} */
    this.boxes = page.boxes;
    /** @type {Set<number>} */
    this.chosen = new Set();
    this.area = /** @type {HTMLElement} */ (form.querySelector(".page-of-drawings"));
    this.list = /** @type {HTMLElement} */ (form.querySelector('[data-part="boxes"]'));
    this.gap = /** @type {HTMLInputElement} */ (form.querySelector('[data-part="gap"]'));
    scope.listen(this.area, "pointerdown", (event) => this.press(event));
    scope.listen(this.area, "dragstart", (event) => event.preventDefault());
    scope.listen(form, "keydown", (event) => this.key(event));
    scope.listen(form, "submit", () => this.fill());
    scope.listen(form, "click", (event) => this.click(event));
    scope.listen(this.gap, "input", () => this.sayGap());
    scope.listen(this.gap, "change", () => this.findAgain());
    this.sayGap();
    this.draw();
  }

  sayGap() {
    const output = this.gap.parentElement?.querySelector("output");
    if (output) output.textContent = this.gap.value;
  }

  async findAgain() {
    const response = await fetch(`${this.form.dataset.boxes}?gap=${this.gap.value}`);
    if (!response.ok) return;
    this.boxes = (await response.json()).boxes;
    this.chosen.clear();
    this.draw();
  }

  draw() {
    const focused = document.activeElement instanceof HTMLElement ? document.activeElement.dataset.box : undefined;
    this.list.replaceChildren(...this.boxes.map((box, at) => this.item(box, at)));
    /** @type {any} */ (this.form.querySelector('[data-part="count"]')).textContent =
      `${this.boxes.length} drawing${this.boxes.length === 1 ? "" : "s"}`;
    if (focused !== undefined)
      /** @type {HTMLElement | null} */ (this.list.querySelector(`[data-box="${focused}"]`))?.focus();
    this.fill();
  }

  /**
   * @param {Box} box
   * @param {number} at
   */
  item(box, at) {
    const item = document.createElement("li");
    const { width, height } = this.page;
    Object.assign(item.style, {
      left: `${(100 * box[0]) / width}%`,
      top: `${(100 * box[1]) / height}%`,
      width: `${(100 * (box[2] - box[0])) / width}%`,
      height: `${(100 * (box[3] - box[1])) / height}%`,
    });
    item.tabIndex = 0;
    item.dataset.box = String(at);
    item.setAttribute("role", "option");
    item.setAttribute("aria-selected", String(this.chosen.has(at)));
    item.setAttribute(
      "aria-label",
      gettext("Box {value}: {value2} by {value3} pixels", {
        value: at + 1,
        value2: box[2] - box[0],
        value3: box[3] - box[1],
      }),
    );
    const number = document.createElement("span");
    number.textContent = String(at + 1);
    const corner = document.createElement("i");
    corner.dataset.corner = "1";
    item.append(number, corner);
    return item;
  }

  fill() {
    /** @type {HTMLInputElement} */ (this.form.querySelector('[name="boxes"]')).value = JSON.stringify(this.boxes);
  }

  /** The position of the pointer in pixels of the page. */
  at(/** @type {PointerEvent} */ event) {
    const area = this.area.getBoundingClientRect();
    return {
      x: Math.round(((event.clientX - area.left) / area.width) * this.page.width),
      y: Math.round(((event.clientY - area.top) / area.height) * this.page.height),
    };
  }

  press(/** @type {PointerEvent} */ event) {
    if (event.button) return;
    const target = /** @type {HTMLElement} */ (event.target);
    const item = /** @type {HTMLElement | null} */ (target.closest("[data-box]"));
    const start = this.at(event);
    let index = item ? Number(item.dataset.box) : -1;
    if (item) this.choose(index, event.shiftKey);
    else this.chosen.clear();
    const before = item ? /** @type {Box} */ ([...this.boxes[index]]) : null;
    const corner = target.dataset.corner !== undefined;
    event.preventDefault();
    drag(this.area, event, (now) => {
      const to = this.at(now);
      if (!before) {
        if (index < 0 && Math.abs(to.x - start.x) > 4 && Math.abs(to.y - start.y) > 4)
          index = this.boxes.push([0, 0, 1, 1]) - 1;
        if (index >= 0) this.boxes[index] = this.tidy([start.x, start.y, to.x, to.y]);
      } else if (corner) {
        this.boxes[index] = this.tidy([before[0], before[1], before[2] + to.x - start.x, before[3] + to.y - start.y]);
      } else {
        this.boxes[index] = this.moved(before, to.x - start.x, to.y - start.y);
      }
      this.draw();
    });
    /** @type {HTMLElement | null} */ (this.list.querySelector(`[data-box="${index}"]`))?.focus();
  }

  /** A box with positive size, clamped to the page. */
  tidy(/** @type {Box} */ [a, b, c, d]) {
    const { width, height } = this.page;
    const x = [Math.max(0, Math.min(a, c)), Math.min(width, Math.max(a, c))];
    const y = [Math.max(0, Math.min(b, d)), Math.min(height, Math.max(b, d))];
    return /** @type {Box} */ ([x[0], y[0], Math.max(x[0] + 2, x[1]), Math.max(y[0] + 2, y[1])]);
  }

  /**
   * @param {Box} box
   * @param {number} x
   * @param {number} y
   */
  moved(box, x, y) {
    const across = Math.max(-box[0], Math.min(this.page.width - box[2], x));
    const down = Math.max(-box[1], Math.min(this.page.height - box[3], y));
    return /** @type {Box} */ ([box[0] + across, box[1] + down, box[2] + across, box[3] + down]);
  }

  /**
   * @param {number} index
   * @param {boolean} add
   */
  choose(index, add) {
    if (add && this.chosen.has(index)) this.chosen.delete(index);
    else if (add) this.chosen.add(index);
    else this.chosen = new Set([index]);
    this.draw();
  }

  click(/** @type {MouseEvent} */ event) {
    const button = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-do]"));
    if (button?.dataset.do === "merge") this.merge();
    else if (button?.dataset.do === "drop") this.drop();
  }

  merge() {
    const chosen = [...this.chosen].sort((a, b) => a - b);
    if (chosen.length < 2) return;
    const all = chosen.map((at) => this.boxes[at]);
    const union = /** @type {Box} */ (
      [0, 1, 2, 3].map((side) => Math[side < 2 ? "min" : "max"](...all.map((box) => box[side])))
    );
    this.boxes = this.boxes.flatMap((box, at) => (at === chosen[0] ? [union] : this.chosen.has(at) ? [] : [box]));
    this.chosen = new Set([chosen[0]]);
    this.draw();
  }

  drop() {
    this.boxes = this.boxes.filter((_, at) => !this.chosen.has(at));
    this.chosen.clear();
    this.draw();
  }

  key(/** @type {KeyboardEvent} */ event) {
    const item = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-box]"));
    if (!item || event.ctrlKey || event.metaKey || event.altKey) return;
    const index = Number(item.dataset.box);
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (step) {
      const by = Math.max(1, Math.round(this.page.width / 400));
      const box = this.boxes[index];
      this.boxes[index] = event.shiftKey
        ? this.tidy([box[0], box[1], box[2] + by * step[0], box[3] + by * step[1]])
        : this.moved(box, by * step[0], by * step[1]);
      this.draw();
    } else if (event.key === " " || event.key === "Enter") {
      this.choose(index, true);
    } else if (event.key === "Delete" || event.key === "Backspace") {
      if (!this.chosen.has(index)) this.chosen = new Set([index]);
      this.drop();
    } else if (event.key.toLowerCase() === "m") {
      this.merge();
    } else {
      return;
    }
    event.preventDefault();
  }
}

const scope = new Scope();
new Cutting(find(".cutting"), JSON.parse(find("#page-document").textContent), scope);
scope.listen(window, "pagehide", () => scope.dispose());
document.documentElement.dataset.cut = "ready";
