/** The Strip: the whole shot at a glance. */

import { View } from "../lib/canvas.js";
import { drag } from "../lib/drag.js";

export class Strip extends View {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   peaks: import("../lib/peaks.js").Peaks, lens: import("./lens.js").Lens}} parts
   * @param {import("../lib/scope.js").Scope} scope
   * @param {import("../lib/canvas.js").Theme} theme
   */
  constructor(canvas, parts, scope, theme) {
    super(canvas, scope, theme);
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.peaks = parts.peaks;
    this.lens = parts.lens;
    /** The waveform, cached for a width and a theme. */
    this.drawnWave = document.createElement("canvas");
    this.waveOf = "";
    scope.listen(canvas, "pointerdown", (event) => this.press(event));
    scope.add(this.transport.frame.follow(() => this.redraw()));
  }

  x(/** @type {number} */ timeUs) {
    return (timeUs / this.shot.durationUs) * this.width;
  }

  press(/** @type {PointerEvent} */ event) {
    if (event.button !== 0) return;
    drag(this.canvas, event, (move) => {
      const x = move.clientX - this.canvas.getBoundingClientRect().left;
      this.transport.scrub(this.shot.rate.frameAt(Math.max(0, Math.round((x / this.width) * this.shot.durationUs))));
    });
  }

  draw(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, width, height, shot } = this;
    context.fillStyle = theme.sheet;
    context.fillRect(0, 0, width, height);
    const { view } = this.lens;
    context.fillStyle = theme.wash;
    context.fillRect(this.x(view.startUs), 0, Math.max(3, this.x(view.spanUs)), height);
    this.drawWave(context);
    this.drawTurns(context);
    context.fillStyle = theme.rust;
    for (const look of shot.secondLooks) {
      const x = this.x((look.start + look.end) / 2);
      context.beginPath();
      context.moveTo(x - 4, 3);
      context.lineTo(x + 4, 3);
      context.lineTo(x, 9);
      context.fill();
    }
    context.fillRect(this.x(shot.rate.firstUs(this.transport.frame.value)) - 0.75, 0, 1.5, height);
  }

  drawWave(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, width, height, shot, peaks } = this;
    const perPixel = shot.durationUs / width;
    const level = peaks.level(perPixel);
    if (level < 0) return;
    const ratio = window.devicePixelRatio || 1;
    const key = [width, height, level, theme.waveSoft, ratio, peaks.came].join();
    if (key !== this.waveOf) {
      this.waveOf = key;
      this.drawnWave.width = Math.round(width * ratio);
      this.drawnWave.height = Math.round(height * ratio);
      const into = /** @type {CanvasRenderingContext2D} */ (this.drawnWave.getContext("2d"));
      into.scale(ratio, ratio);
      into.fillStyle = theme.waveSoft;
      const middle = height / 2 - 1;
      const scale = (height / 2 - 8) / peaks.loudest;
      for (let x = 0; x < width; x += 1) {
        const [low, high] = peaks.range(level, x * perPixel, (x + 1) * perPixel);
        into.fillRect(x, middle - high * scale - 0.5, 1, (high - low) * scale + 1);
      }
    }
    context.drawImage(this.drawnWave, 0, 0, width, height);
  }

  /** A bar for each turn, in a lower row if two speak at once. */
  drawTurns(/** @type {CanvasRenderingContext2D} */ context) {
    const { shot, theme, height } = this;
    let end = -1;
    for (const turn of shot.turns) {
      context.fillStyle = theme.speaker(shot.speakerOf(turn).ink);
      const left = this.x(turn.start);
      context.fillRect(left, height - (turn.start < end ? 9 : 5), Math.max(2, this.x(turn.end) - left), 3);
      end = Math.max(end, turn.end);
    }
  }
}
