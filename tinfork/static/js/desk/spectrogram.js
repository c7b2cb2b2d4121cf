/** The spectrogram behind the Lens' waveform: short spectra of the decoded sound, computed for the visible part. */

/** Samples of a window: 16 ms at 16 kHz, short enough to show bursts and pulses. */
const SIZE = 256;
/** The number of rows, up to 8 kHz. */
const BINS = SIZE / 2;
/** The range drawn below the loudest level (dB). */
const RANGE_DB = 60;

const HANN = Float32Array.from({ length: SIZE }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / (SIZE - 1)));
const COS = Float32Array.from({ length: SIZE / 2 }, (_, n) => Math.cos((2 * Math.PI * n) / SIZE));
const SIN = Float32Array.from({ length: SIZE / 2 }, (_, n) => Math.sin((2 * Math.PI * n) / SIZE));

/**
 * The power in each bin of a window starting at a sample, by the fast Fourier transform (Cooley and Tukey 1965).
 * @param {Float32Array} samples
 * @param {number} start
 * @returns {Float32Array}
 */
export function powers(samples, start) {
  const re = new Float32Array(SIZE);
  const im = new Float32Array(SIZE);
  for (let n = 0, r = 0; n < SIZE; n += 1) {
    re[r] = (samples[start + n] || 0) * HANN[n];
    // The next index with its bits reversed.
    let bit = SIZE >> 1;
    while (r & bit) {
      r ^= bit;
      bit >>= 1;
    }
    r |= bit;
  }
  for (let half = 1; half < SIZE; half *= 2) {
    const step = SIZE / (2 * half);
    for (let block = 0; block < SIZE; block += 2 * half) {
      for (let k = 0; k < half; k += 1) {
        const [c, s] = [COS[k * step], -SIN[k * step]];
        const [a, b] = [block + k, block + k + half];
        const [x, y] = [re[b] * c - im[b] * s, re[b] * s + im[b] * c];
        re[b] = re[a] - x;
        im[b] = im[a] - y;
        re[a] += x;
        im[a] += y;
      }
    }
  }
  return Float32Array.from({ length: BINS }, (_, n) => re[n] * re[n] + im[n] * im[n]);
}

export class Spectrogram {
  /** @param {AudioBuffer} buffer */
  constructor(buffer) {
    this.samples = buffer.getChannelData(0);
    this.hz = buffer.sampleRate;
    this.loudest = this.top();
    this.canvas = document.createElement("canvas");
    this.key = "";
  }

  /** The highest power at sample places all over the sound. */
  top() {
    let most = 1e-9;
    const step = Math.max(SIZE, Math.floor(this.samples.length / 400));
    for (let at = 0; at + SIZE < this.samples.length; at += step)
      for (const power of powers(this.samples, at)) most = Math.max(most, power);
    return most;
  }

  /**
   * @param {CanvasRenderingContext2D} context
   * @param {import("../lib/viewport.js").Viewport} view
   * @param {{top: number, height: number, width: number}} box
   * @param {import("../lib/canvas.js").Theme} theme
   */
  draw(context, view, box, theme) {
    const key = [view.startUs, view.spanUs, box.width, theme.ink].join();
    if (key !== this.key) this.fill(view, box.width, theme);
    this.key = key;
    context.imageSmoothingEnabled = true;
    context.drawImage(this.canvas, 0, box.top, box.width, box.height);
  }

  /** One column per pixel, or per few pixels if that shows as much. */
  fill(
    /** @type {import("../lib/viewport.js").Viewport} */ view,
    /** @type {number} */ width,
    /** @type {import("../lib/canvas.js").Theme} */ theme,
  ) {
    const columns = Math.max(2, Math.min(Math.ceil(width / 2), Math.ceil((view.spanUs / 1e6) * 250)));
    this.canvas.width = columns;
    this.canvas.height = BINS;
    const image = new ImageData(columns, BINS);
    const ink = /^#(..)(..)(..)/
      .exec(theme.ink)
      ?.slice(1)
      .map((part) => parseInt(part, 16)) || [36, 40, 45];
    for (let column = 0; column < columns; column += 1) {
      const time = view.startUs + ((column + 0.5) / columns) * view.spanUs;
      const power = powers(this.samples, Math.round((time / 1e6) * this.hz) - SIZE / 2);
      for (let bin = 0; bin < BINS; bin += 1) {
        const db = 10 * Math.log10((power[bin] + 1e-12) / this.loudest);
        const at = 4 * ((BINS - 1 - bin) * columns + column);
        image.data.set([ink[0], ink[1], ink[2], Math.max(0, Math.min(215, (215 * (db + RANGE_DB)) / RANGE_DB))], at);
      }
    }
    /** @type {CanvasRenderingContext2D} */ (this.canvas.getContext("2d")).putImageData(image, 0, 0);
  }
}
