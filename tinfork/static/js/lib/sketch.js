/**
 * Drawing on a picture: pen lines and arrows, stored as vectors in shares of the picture (x and y from 0 to 1).
 * @typedef {{kind: "pen" | "arrow", points: Array<[number, number]>}} Stroke
 */
import { drag } from "./drag.js";

/** The most strokes of a remark, and points of a stroke. */
export const MAX_STROKES = 40;
const MAX_POINTS = 400;
/** Points nearer than this to the last one are dropped. */
const NEAR = 0.003;
/** The head of an arrow: its length as a share of the picture's width, and half its angle. */
const HEAD = 0.03;
const SPREAD = Math.PI / 7;

const rounded = (/** @type {number} */ value) => Math.round(Math.min(1, Math.max(0, value)) * 1e4) / 1e4;

/**
 * Add a point to a stroke: a pen line continues, an arrow gets another tip. @param {Stroke} stroke @param {[number,
 * number]} point @returns {Stroke}
 */
export function drawnOn(stroke, point) {
  const at = /** @type {[number, number]} */ (point.map(rounded));
  if (stroke.kind === "arrow") return { kind: "arrow", points: [stroke.points[0], at] };
  const last = stroke.points[stroke.points.length - 1];
  if (stroke.points.length >= MAX_POINTS || Math.hypot(at[0] - last[0], at[1] - last[1]) < NEAR) return stroke;
  return { kind: "pen", points: [...stroke.points, at] };
}

/**
 * The two ends of an arrow's head, for a picture of some size in pixels. @param {Stroke} stroke @param {number} width
 * @param {number} height @returns {Array<[number, number]>}
 */
export function arrowHead(stroke, width, height) {
  const [from, to] = [stroke.points[0], stroke.points[stroke.points.length - 1]];
  const angle = Math.atan2((to[1] - from[1]) * height, (to[0] - from[0]) * width);
  const length = HEAD * width;
  return [-SPREAD, SPREAD].map((turn) => [
    to[0] * width - length * Math.cos(angle + turn),
    to[1] * height - length * Math.sin(angle + turn),
  ]);
}

/**
 * @param {CanvasRenderingContext2D} context
 * @param {Stroke[]} strokes
 * @param {number} width in the context's units
 * @param {number} height
 */
export function paint(context, strokes, width, height) {
  for (const [ink, extra] of /** @type {Array<[string, number]>} */ ([
    ["rgb(255 255 255 / 85%)", 3],
    ["#c8331c", 0],
  ])) {
    context.strokeStyle = ink;
    context.lineWidth = Math.max(2, width / 260) + extra;
    context.lineCap = context.lineJoin = "round";
    for (const stroke of strokes) {
      context.beginPath();
      stroke.points.forEach(([x, y], at) => {
        if (at) context.lineTo(x * width, y * height);
        else context.moveTo(x * width, y * height);
      });
      if (stroke.kind === "arrow") {
        const [tip] = stroke.points.slice(-1);
        for (const [x, y] of arrowHead(stroke, width, height)) {
          context.moveTo(tip[0] * width, tip[1] * height);
          context.lineTo(x, y);
        }
      }
      context.stroke();
    }
  }
}

/** A canvas for drawing over a picture, which also shows drawings of others. */
export class Sketch {
  /**
   * @param {HTMLCanvasElement} canvas lies exactly over the picture
   * @param {() => void} [changed] called when a stroke was added or taken back
   */
  constructor(canvas, changed = () => {}) {
    this.canvas = canvas;
    this.changed = changed;
    /** @type {Stroke[]} */
    this.strokes = [];
    /** @type {Stroke[]} */
    this.shown = [];
    /** @type {"pen" | "arrow" | ""} */
    this.kind = "";
    canvas.addEventListener("pointerdown", (event) => this.press(event));
    new ResizeObserver(() => this.draw()).observe(canvas);
    this.take("");
  }

  /** Choose the pen, the arrow, or no tool. @param {"pen" | "arrow" | ""} kind */
  take(kind) {
    this.kind = kind;
    this.canvas.style.pointerEvents = kind ? "auto" : "none";
    this.canvas.style.touchAction = kind ? "none" : "auto";
  }

  /** Show the drawings of others on the current frame. @param {Stroke[]} strokes */
  show(strokes) {
    // Most frames have no drawings: skip them.
    const isBare = !strokes.length && !this.shown.length;
    this.shown = strokes;
    if (!isBare) this.draw();
  }

  takeBack() {
    this.strokes = this.strokes.slice(0, -1);
    this.draw();
    this.changed();
  }

  clear() {
    this.strokes = [];
    this.draw();
    this.changed();
  }

  press(/** @type {PointerEvent} */ event) {
    if (!this.kind || event.button > 0 || this.strokes.length >= MAX_STROKES) return;
    event.preventDefault();
    const before = this.strokes;
    const point = this.pointOf(event);
    /** @type {Stroke} */
    let stroke = { kind: this.kind, points: [/** @type {[number, number]} */ (point.map(rounded))] };
    drag(
      this.canvas,
      event,
      (moved) => {
        stroke = drawnOn(stroke, this.pointOf(moved));
        if (stroke.points.length > 1) this.strokes = [...before, stroke];
        this.draw();
      },
      () => this.changed(),
    );
  }

  /** @returns {[number, number]} */
  pointOf(/** @type {PointerEvent} */ event) {
    const box = this.canvas.getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  }

  draw() {
    const { canvas } = this;
    const ratio = window.devicePixelRatio || 1;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    if (!width || !height) return;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    const context = canvas.getContext("2d");
    if (!context) return;
    context.scale(ratio, ratio);
    paint(context, [...this.shown, ...this.strokes], width, height);
  }
}
