/** What the drawn views share: a sharp canvas that fills its box, colours from the style, one redraw a frame. */

/** Colours by their custom property, as the theme has them now. */
export function readTheme() {
  const style = getComputedStyle(document.documentElement);
  const get = (/** @type {string} */ name) => style.getPropertyValue(name).trim();
  const speakers = ["--ink-1", "--ink-2c", "--ink-3", "--ink-4", "--ink-5", "--ink-6"].map(get);
  const washes = [get("--ink-1-wash"), get("--ink-2c-wash")];
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
    /** What a mouth is drawn on where the sheet is dark. */
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
    const context = canvas.getContext("2d");
    if (!context) throw new Error("This browser has no canvas.");
    this.context = context;
    scope.onResize(/** @type {Element} */ (canvas.parentElement), () => this.fit());
    scope.add(() => cancelAnimationFrame(this.waiting));
  }

  /** Take the size of the box, in real pixels. */
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
    this.resized();
    // Setting the size wiped the canvas: draw before the browser shows it.
    this.paint();
  }

  resized() {}

  /** Ask for a redraw with the next frame. */
  redraw() {
    if (this.waiting) return;
    this.waiting = requestAnimationFrame(() => {
      this.waiting = 0;
      this.paint();
    });
  }

  paint() {
    this.context.clearRect(0, 0, this.width, this.height);
    this.draw(this.context);
  }

  draw(/** @type {CanvasRenderingContext2D} */ _context) {}

  /**
   * A wavy underline: the sign of doubt.
   * @param {number} x
   * @param {number} y
   * @param {number} width
   */
  wave(x, y, width) {
    const { context } = this;
    context.strokeStyle = this.theme.rust;
    context.lineWidth = 1.2;
    context.beginPath();
    for (let at = 0; at <= width; at += 1) context.lineTo(x + at, y + Math.sin(at * 1.1) * 1.4);
    context.stroke();
  }
}
