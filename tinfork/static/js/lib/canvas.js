/** The basis of canvas views: a sharp canvas that fills its box, colours from the style sheet, one redraw per frame. */
import { gettext } from "./gettext.js";

/** Colours of the current theme, by custom property. */
export function readTheme() {
  const style = getComputedStyle(document.documentElement);
  const get = (/** @type {string} */ name) => style.getPropertyValue(name).trim();
  const speakers = ["--speaker-1", "--speaker-2", "--speaker-3", "--speaker-4", "--speaker-5", "--speaker-6"].map(get);
  const washes = [get("--speaker-1-wash"), get("--speaker-2-wash")];
  return {
    paper: get("--paper"),
    sheet: get("--sheet"),
    ink: get("--ink"),
    ink2: get("--ink-2"),
    tin: get("--tin"),
    tin2: get("--tin-2"),
    rule: get("--rule"),
    rust: get("--rust"),
    onRust: get("--on-rust"),
    wash: get("--wash"),
    selected: get("--selected"),
    wave: get("--wave"),
    waveSoft: get("--wave-soft"),
    /** The background of mouths in the dark theme. */
    mouthGround: document.documentElement.dataset.bsTheme === "dark" ? "#cfc6b4" : "",
    sans: '"Noto Sans", sans-serif',
    mono: '"Noto Sans Mono", monospace',
    /** A speaker's colour, by its number from 1. */
    speaker: (/** @type {number} */ ink) => speakers[(ink - 1) % speakers.length],
    wordWash: (/** @type {number} */ ink) => washes[ink - 1] || get("--sheet"),
  };
}

/** @typedef {ReturnType<typeof readTheme>} Theme */

export class View {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {import("./scope.js").Scope} scope
   * @param {Theme} theme
   */
  constructor(canvas, scope, theme) {
    this.canvas = canvas;
    this.theme = theme;
    this.width = 1;
    this.height = 1;
    this.waiting = 0;
    /** The cached static part: its canvas, and the state it was drawn for. */
    this.still = document.createElement("canvas");
    this.stillFor = "";
    const context = canvas.getContext("2d");
    if (!context) throw new Error(gettext("This browser has no canvas."));
    this.context = context;
    scope.onResize(/** @type {Element} */ (canvas.parentElement), () => this.fit());
    scope.add(() => cancelAnimationFrame(this.waiting));
  }

  /** Resize the canvas to its box, in device pixels. */
  fit() {
    const box = /** @type {Element} */ (this.canvas.parentElement).getBoundingClientRect();
    const ratio = window.devicePixelRatio || 1;
    this.width = Math.max(1, Math.floor(box.width));
    this.height = Math.max(1, Math.floor(box.height));
    this.canvas.width = Math.round(this.width * ratio);
    this.canvas.height = Math.round(this.height * ratio);
    this.canvas.style.width = `${this.width}px`;
    this.canvas.style.height = `${this.height}px`;
    this.context.setTransform(ratio, 0, 0, ratio, 0, 0);
    this.stillFor = "";
    this.resized();
    // Setting the size clears the canvas: draw before the browser paints.
    this.paint();
  }

  resized() {}

  /** Content changed: redraw everything with the next frame. */
  redraw() {
    this.stillFor = "";
    this.step();
  }

  /** The playhead or the window moved: redraw only what depends on them. */
  step() {
    if (this.waiting) return;
    this.waiting = requestAnimationFrame(() => {
      this.waiting = 0;
      this.paint();
    });
  }

  /**
   * Copy the cached static part.
   * @param {string} what names all that it depends on but the shot: another name, and it is drawn anew
   * @param {{y: number, height: number}} part of it, in pixels of the view, that comes to lie on the view
   * @param {number} height of all of it
   * @param {(context: CanvasRenderingContext2D) => void} draw
   */
  drawStill(what, part, height, draw) {
    const ratio = this.canvas.width / this.width;
    if (this.stillFor !== what) {
      this.still.width = this.canvas.width;
      this.still.height = Math.ceil(height * ratio);
      const context = this.still.getContext("2d");
      if (!context) return;
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.textBaseline = "middle";
      draw(context);
      this.stillFor = what;
    }
    const y = Math.round(part.y * ratio);
    const high = Math.min(this.still.height - y, Math.ceil(part.height * ratio));
    if (high > 0) this.context.drawImage(this.still, 0, y, this.still.width, high, 0, 0, this.width, high / ratio);
  }

  paint() {
    this.context.clearRect(0, 0, this.width, this.height);
    this.draw(this.context);
  }

  draw(/** @type {CanvasRenderingContext2D} */ _context) {}

  /**
   * A wavy underline, the mark of doubtful words.
   * @param {CanvasRenderingContext2D} context
   * @param {number} x
   * @param {number} y
   * @param {number} width
   */
  wave(context, x, y, width) {
    context.strokeStyle = this.theme.rust;
    context.lineWidth = 1.2;
    context.beginPath();
    for (let at = 0; at <= width; at += 1) context.lineTo(x + at, y + Math.sin(at * 1.1) * 1.4);
    context.stroke();
  }
}
