/** What the drawn views share: a sharp canvas that fills its box, colours from the style, one redraw a frame. */

/** Colours by their custom property, read anew when the theme changes. */
export class Theme {
  constructor() {
    this.read();
  }

  read() {
    const style = getComputedStyle(document.documentElement);
    const get = (/** @type {string} */ name) => style.getPropertyValue(name).trim();
    this.paper = get("--paper");
    this.sheet = get("--sheet");
    this.ink = get("--ink");
    this.ink2 = get("--ink-2");
    this.tin = get("--tin");
    this.tin2 = get("--tin-2");
    this.rule = get("--rule");
    this.rust = get("--rust");
    this.onRust = get("--on-rust");
    this.wash = get("--wash");
    this.wave = get("--wave");
    this.waveSoft = get("--wave-soft");
    this.speakers = ["--ink-1", "--ink-2c", "--ink-3", "--ink-4", "--ink-5", "--ink-6"].map(get);
    this.speakerWash = [get("--ink-1-wash"), get("--ink-2c-wash")];
    this.mouthGround = document.documentElement.dataset.bsTheme === "dark" ? "#cfc6b4" : "";
    this.sans = '"Noto Sans", sans-serif';
    this.mono = '"Noto Sans Mono", monospace';
  }

  speaker(/** @type {number} */ ink) {
    return this.speakers[(ink - 1) % this.speakers.length];
  }

  wordWash(/** @type {number} */ ink) {
    return this.speakerWash[ink - 1] || this.sheet;
  }
}

export class View {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {import("../lib/scope.js").Scope} scope
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
