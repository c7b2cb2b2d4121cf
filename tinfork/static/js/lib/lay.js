/**
 * The position of a drawing on the face: the same rule as in core/mouths/placement.py; both are tested on one table.
 *
 * @typedef {{x: number, y: number, width: number, angle: number, aspect: number}} Place
 * @typedef {{width: number, height: number, canvas: number, point: number[], offset: number[]}} Registered
 * @typedef {{x: number, y: number, width: number, height: number, angle: number}} Laid
 */

/**
 * The whole face picture fitted into a frame.
 * @param {number} width
 * @param {number} height
 * @param {number} aspect
 */
export function fitted(width, height, aspect) {
  const w = Math.min(width, height * aspect);
  const h = w / aspect;
  return { left: (width - w) / 2, top: (height - h) / 2, width: w, height: h };
}

/**
 * A drawing's centre, size and turn in a frame of `width` x `height`.
 * @param {Place} place
 * @param {Registered} drawing
 * @param {number} width
 * @param {number} height
 * @returns {Laid}
 */
export function lay(place, drawing, width, height) {
  const face = fitted(width, height, place.aspect);
  const scale = (place.width * face.width) / drawing.canvas;
  const across = scale * (drawing.width / 2 - drawing.point[0] + drawing.offset[0]);
  const down = scale * (drawing.height / 2 - drawing.point[1] + drawing.offset[1]);
  const turn = (place.angle * Math.PI) / 180;
  return {
    x: face.left + place.x * face.width + across * Math.cos(turn) - down * Math.sin(turn),
    y: face.top + place.y * face.height + across * Math.sin(turn) + down * Math.cos(turn),
    width: scale * drawing.width,
    height: scale * drawing.height,
    angle: place.angle,
  };
}

/**
 * Position an image absolutely in its frame.
 * @param {HTMLElement} image
 * @param {Laid} laid
 */
export function put(image, laid) {
  Object.assign(image.style, {
    position: "absolute",
    left: `${laid.x}px`,
    top: `${laid.y}px`,
    width: `${laid.width}px`,
    height: `${laid.height}px`,
    transform: `translate(-50%, -50%) rotate(${laid.angle}deg)`,
  });
}

/**
 * Where a character stands in the shot's picture: the same rule as in core/scene/layout.py, tested on one table.
 *
 * @typedef {{x: number, y: number, size: number, turn: number, mirrored: boolean, depth: number}} Stand
 */

/**
 * The centre and size of a character's face picture, before it is turned, in a picture of `width` x `height`.
 * @param {Stand} stand
 * @param {number} aspect the face picture's width by its height
 * @param {number} width
 * @param {number} height
 */
export function figureBox(stand, aspect, width, height) {
  const wide = Math.min(width, height * aspect) * stand.size;
  return { x: stand.x * width, y: stand.y * height, width: wide, height: wide / aspect };
}

/**
 * The transform with which a character fills the picture.
 * @param {Stand} stand
 * @param {number} aspect
 * @param {number} width
 * @param {number} height
 */
export function closeUp(stand, aspect, width, height) {
  const box = figureBox(stand, aspect, width, height);
  const scale = Math.min(width / box.width, height / box.height);
  return { x: width / 2 - box.x * scale, y: height / 2 - box.y * scale, scale };
}
