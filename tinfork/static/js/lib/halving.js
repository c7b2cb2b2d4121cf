/**
 * Drawing large pictures small, by halving them step by step first.
 *
 * Browsers may sample only four pixels around each point when they draw a picture smaller. Below half its size that
 * drops thin lines and breaks up small mouths. Halving takes every pixel into account (mipmaps: Williams, "Pyramidal
 * parametrics", 1983).
 */

/**
 * @type {WeakMap<HTMLImageElement, (HTMLImageElement | HTMLCanvasElement)[]>} Each picture with its halvings, made when
 * first needed.
 */
const halvings = new WeakMap();

/**
 * The picture at its own size or halved, at least `width` device pixels wide and less than twice that.
 * @param {HTMLImageElement} image a loaded picture
 * @param {number} width device pixels
 * @returns {HTMLImageElement | HTMLCanvasElement}
 */
export function halvedTo(image, width) {
  const sizes = halvings.get(image) ?? [image];
  halvings.set(image, sizes);
  let wide = image.naturalWidth;
  let high = image.naturalHeight;
  let step = 0;
  while (wide >= 2 * width && wide > 1) {
    wide = Math.ceil(wide / 2);
    high = Math.ceil(high / 2);
    step += 1;
    sizes[step] ??= drawnAt(/** @type {HTMLImageElement} */ (sizes[step - 1]), wide, high);
  }
  return /** @type {HTMLImageElement} */ (sizes[step]);
}

/**
 * @param {HTMLImageElement | HTMLCanvasElement} picture
 * @param {number} width
 * @param {number} height
 */
function drawnAt(picture, width, height) {
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  canvas.getContext("2d")?.drawImage(picture, 0, 0, width, height);
  return canvas;
}
