/**
 * Follow a pointer from its press until it is let go, wherever it moves.
 * @param {HTMLElement} element
 * @param {PointerEvent} event the press
 * @param {(event: PointerEvent) => void} follow called for the press too
 */
export function drag(element, event, follow) {
  element.setPointerCapture(event.pointerId);
  const end = () => {
    element.removeEventListener("pointermove", follow);
    element.removeEventListener("pointerup", end);
    element.removeEventListener("pointercancel", end);
  };
  element.addEventListener("pointermove", follow);
  element.addEventListener("pointerup", end);
  element.addEventListener("pointercancel", end);
  follow(event);
}
