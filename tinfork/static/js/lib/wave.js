/** Draws a waveform from int8 pairs of lowest and highest values. */

/**
 * @param {HTMLCanvasElement} canvas
 * @param {(fromShare: number, toShare: number) => number[]} range lowest and highest (-127 to 127) of a share of the sound
 * @param {{colour: string, loudest: number}} look
 */
export function drawWave(canvas, range, { colour, loudest }) {
  const ratio = window.devicePixelRatio || 1;
  const width = canvas.clientWidth || canvas.width;
  const height = canvas.clientHeight || canvas.height;
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.fillStyle = colour;
  const middle = height / 2;
  const scale = (middle - 1) / loudest;
  for (let x = 0; x < width; x += 1) {
    const [low, high] = range(x / width, (x + 1) / width);
    context.fillRect(x, middle - high * scale - 0.4, 1, (high - low) * scale + 0.8);
  }
}
