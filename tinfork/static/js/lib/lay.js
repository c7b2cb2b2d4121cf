/**
 * Where a drawing lies on the face: the same rule as in core/mouths/placement.py; both sides are tested on one table.
 *
 * @typedef {{x: number, y: number, width: number, angle: number, aspect: number}} Place
 * @typedef {{width: number, height: number, canvas: number, point: number[], offset: number[]}} Registered
 * @typedef {{x: number, y: number, width: number, height: number, angle: number}} Laid
 */

/**
 * The face picture fitted whole into a frame of another shape.
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
 * Put an image there; it is positioned absolutely in its frame.
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
