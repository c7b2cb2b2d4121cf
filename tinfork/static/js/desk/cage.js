/** The cage of the active drawing on the Stage: nine points to pull with the pointer or arrow keys. */
import { bentPoint, folds, MOST, POINTS } from "../lib/bend.js";
import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";
import { bendOf, FIELDS, poseMatrix } from "../lib/pose.js";

/** @typedef {import("../lib/pose.js").Pose} Pose */
/**
 * The active part, as `Moving` has it.
 * @typedef {{figure: import("./stage.js").Stage["figures"][number], part: string, pose: Pose, frame: number, isLocked: boolean,
 *   isOn: {value: boolean}, form: HTMLElement, parts: {stage: import("./stage.js").Stage},
 *   along: (x: number, y: number) => number[], set: (pose: Pose) => void}} Bendable
 */

const NAMES = [
  gettext("top left"),
  "top",
  gettext("top right"),
  "left",
  "middle",
  "right",
  gettext("bottom left"),
  "bottom",
  gettext("bottom right"),
];
/** How far an arrow key pulls, in hundredths of the drawing; with Shift. */
const [STEP, FAR] = [1, 5];

export class Cage {
  /** @param {Bendable} moving */
  constructor(moving) {
    this.moving = moving;
    this.isOn = false;
    this.root = document.createElement("div");
    this.root.className = "cage";
    this.points = NAMES.map((name, n) => {
      const point = document.createElement("button");
      point.type = "button";
      point.setAttribute("aria-label", gettext("Bend: {name}", { name }));
      point.addEventListener("pointerdown", (event) => this.press(event, n));
      point.addEventListener("keydown", (event) => this.key(event, n));
      return point;
    });
    this.root.append(...this.points);
  }

  /** The drawing to bend: the visible one of the active part. */
  get layer() {
    const { figure, part } = this.moving;
    return [...figure.layers].find(([column]) => (column.of ? String(column.id) : "mouth") === part)?.[1];
  }

  turn(on = !this.isOn) {
    this.isOn = on;
    this.show();
  }

  /** The positions of the points; empty if no drawing that can be bent is visible. */
  show() {
    const { moving, layer } = this;
    const button = moving.form.querySelector('[data-key="bend"]');
    const can = Boolean(layer?.image) && moving.isOn.value;
    for (const name of ["bend", "straight"])
      moving.form.querySelector(`[data-key="${name}"]`)?.toggleAttribute("disabled", !can);
    button?.setAttribute("aria-pressed", String(this.isOn && can));
    if (!this.isOn || !can || !layer?.laid) {
      this.root.remove();
      return;
    }
    const { laid } = layer;
    if (this.root.parentElement !== layer.element) layer.element.append(this.root);
    Object.assign(this.root.style, {
      left: `${laid.x}px`,
      top: `${laid.y}px`,
      width: `${laid.width}px`,
      height: `${laid.height}px`,
      transform: `translate(-50%, -50%) rotate(${laid.angle}deg)`,
    });
    const bend = bendOf(moving.pose);
    for (const [n, point] of this.points.entries()) {
      const [x, y] = bentPoint(bend, (n % 3) / 2, Math.floor(n / 3) / 2);
      Object.assign(point.style, {
        left: `${100 * x}%`,
        top: `${100 * y}%`,
        transform: `translate(-50%, -50%) scale(${1 / moving.parts.stage.view.scale})`,
      });
    }
  }

  /** A pose with a point pulled further, in hundredths of the drawing; unchanged if that would fold it. */
  pulled(/** @type {Pose} */ from, /** @type {number} */ n, /** @type {number} */ across, /** @type {number} */ down) {
    const bend = bendOf(from).length ? [...bendOf(from)] : new Array(2 * POINTS).fill(0);
    // A pull that would fold is shortened.
    for (let share = 1; share > 0; share -= 0.05) {
      const now = [...bend];
      for (const [axis, by] of [across, down].entries())
        now[2 * n + axis] = Math.round(100 * Math.min(MOST, Math.max(-MOST, bend[2 * n + axis] + share * by))) / 100;
      if (!folds(now)) return [...from.slice(0, FIELDS.length), ...now];
    }
    return from;
  }

  /** Convert pixels of the Stage to hundredths of the drawing, along its own axes. @returns {[number, number]} */
  along(/** @type {number} */ x, /** @type {number} */ y) {
    const { moving, layer } = this;
    const { box } = moving.figure;
    const laid = /** @type {import("../lib/lay.js").Laid} */ (layer?.laid);
    const [across, down] = moving.along(x, y).map((value) => (value / 100) * box.height);
    const [a, b, c, d] = poseMatrix(moving.pose, [0, 0], 1);
    const det = a * d - b * c;
    const [px, py] = [(d * across - c * down) / det, (a * down - b * across) / det];
    const turn = (-laid.angle * Math.PI) / 180;
    return [
      (100 * (px * Math.cos(turn) - py * Math.sin(turn))) / laid.width,
      (100 * (px * Math.sin(turn) + py * Math.cos(turn))) / laid.height,
    ];
  }

  press(/** @type {PointerEvent} */ event, /** @type {number} */ n) {
    if (event.button) return;
    event.preventDefault();
    event.stopPropagation();
    const { moving } = this;
    if (moving.isLocked) {
      moving.set(moving.pose);
      return;
    }
    this.points[n].focus();
    const { figure, part, frame, pose: from } = moving;
    const [x, y] = [event.clientX, event.clientY];
    const to = (/** @type {PointerEvent} */ at) => this.pulled(from, n, ...this.along(at.clientX - x, at.clientY - y));
    drag(
      this.points[n],
      event,
      (at) => {
        figure.dragged[part] = to(at);
        figure.move(frame);
        this.show();
      },
      (at) => {
        const pose = to(at);
        delete figure.dragged[part];
        if (at.clientX !== x || at.clientY !== y) moving.set(pose);
        figure.move(moving.frame);
        this.show();
      },
    );
  }

  key(/** @type {KeyboardEvent} */ event, /** @type {number} */ n) {
    const by = event.shiftKey ? FAR : STEP;
    const pulls = /** @type {Record<string, [number, number]>} */ ({
      ArrowLeft: [-by, 0],
      ArrowRight: [by, 0],
      ArrowUp: [0, -by],
      ArrowDown: [0, by],
    })[event.key];
    if (!pulls) return;
    event.preventDefault();
    event.stopPropagation();
    this.moving.set(this.pulled(this.moving.pose, n, ...pulls));
  }
}
