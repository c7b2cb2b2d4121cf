/**
 * Follow a pointer from press to release, wherever it moves.
 * @param {HTMLElement} element
 * @param {PointerEvent} event the press
 * @param {(event: PointerEvent) => void} follow called for the press too
 * @param {(event: PointerEvent) => void} [done] called once it is let go, or taken away
 */
export function drag(element, event, follow, done = () => {}) {
  element.setPointerCapture(event.pointerId);
  const end = (/** @type {PointerEvent} */ last) => {
    element.removeEventListener("pointermove", follow);
    element.removeEventListener("pointerup", end);
    element.removeEventListener("pointercancel", end);
    done(last);
  };
  element.addEventListener("pointermove", follow);
  element.addEventListener("pointerup", end);
  element.addEventListener("pointercancel", end);
  follow(event);
}
