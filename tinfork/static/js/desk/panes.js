/** Resizing the Desk's panes by their edges, with the pointer or arrow keys; sizes are stored in this browser. */
import { drag } from "../lib/drag.js";

/**
 * How a pane is resized: its axis, direction (1 if the edge is at its end), and the limits in pixels.
 * @type {Record<string, {axis: "x" | "y", way: 1 | -1, least: number, most: number}>}
 */
const PANES = {
  sheet: { axis: "x", way: 1, least: 220, most: 900 },
  tray: { axis: "x", way: -1, least: 220, most: 700 },
  lens: { axis: "y", way: -1, least: 140, most: 600 },
};
const STEP = 16;
const KEY = "tinfork-panes";

export class Panes {
  /**
   * @param {HTMLElement} root the grid; its edges name their pane, and the pane's element by its id
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, scope) {
    this.root = root;
    /** @type {Record<string, number>} */
    this.sizes = this.kept();
    for (const edge of /** @type {HTMLElement[]} */ ([...root.querySelectorAll("[data-pane]")])) {
      const name = edge.dataset.pane || "";
      this.apply(edge, name);
      scope.listen(edge, "pointerdown", (/** @type {PointerEvent} */ event) => this.pull(edge, name, event));
      scope.listen(edge, "keydown", (/** @type {KeyboardEvent} */ event) => this.key(edge, name, event));
      scope.listen(edge, "dblclick", () => this.reset(edge, name));
    }
  }

  kept() {
    try {
      return JSON.parse(localStorage.getItem(KEY) || "{}");
    } catch {
      return {};
    }
  }

  /** The size of a pane. */
  size(/** @type {string} */ name) {
    const pane = this.root.querySelector(`[data-sized="${name}"]`);
    const box = /** @type {HTMLElement} */ (pane).getBoundingClientRect();
    return Math.round(PANES[name].axis === "x" ? box.width : box.height);
  }

  apply(/** @type {HTMLElement} */ edge, /** @type {string} */ name) {
    if (this.sizes[name]) this.root.style.setProperty(`--${name}-pane`, `${this.sizes[name]}px`);
    else this.root.style.removeProperty(`--${name}-pane`);
    edge.setAttribute("aria-valuenow", String(this.size(name)));
  }

  set(/** @type {HTMLElement} */ edge, /** @type {string} */ name, /** @type {number} */ size) {
    const { least, most } = PANES[name];
    this.sizes[name] = Math.max(least, Math.min(most, Math.round(size)));
    this.apply(edge, name);
    localStorage.setItem(KEY, JSON.stringify(this.sizes));
  }

  /** Reset to the default. */
  reset(/** @type {HTMLElement} */ edge, /** @type {string} */ name) {
    delete this.sizes[name];
    this.apply(edge, name);
    localStorage.setItem(KEY, JSON.stringify(this.sizes));
  }

  pull(/** @type {HTMLElement} */ edge, /** @type {string} */ name, /** @type {PointerEvent} */ event) {
    const { axis, way } = PANES[name];
    const place = (/** @type {PointerEvent} */ at) => (axis === "x" ? at.clientX : at.clientY);
    const [from, before] = [place(event), this.size(name)];
    drag(edge, event, (at) => {
      if (place(at) !== from) this.set(edge, name, before + way * (place(at) - from));
    });
  }

  key(/** @type {HTMLElement} */ edge, /** @type {string} */ name, /** @type {KeyboardEvent} */ event) {
    const { axis, way } = PANES[name];
    const [back, on] = axis === "x" ? ["ArrowLeft", "ArrowRight"] : ["ArrowUp", "ArrowDown"];
    const step = event.key === back ? -1 : event.key === on ? 1 : 0;
    if (step) this.set(edge, name, this.size(name) + way * step * STEP);
    else if (event.key === "Delete" || event.key === "Backspace") this.reset(edge, name);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}
