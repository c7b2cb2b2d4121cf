/** A long press acts like a double click, since touch has no second button and no hovering. */

const HELD_MS = 500;
/** How far the finger may move (CSS pixels). */
const STILL = 8;

/**
 * @param {HTMLElement} element
 * @param {import("./scope.js").Scope} scope
 */
export function listenForLongPress(element, scope) {
  let timer = 0;
  let [left, top] = [0, 0];
  const end = () => clearTimeout(timer);
  scope.listen(element, "pointerdown", (event) => {
    end();
    if (event.pointerType !== "touch" || !event.isPrimary) return;
    [left, top] = [event.clientX, event.clientY];
    timer = window.setTimeout(
      () => element.dispatchEvent(new MouseEvent("dblclick", { bubbles: true, clientX: left, clientY: top })),
      HELD_MS,
    );
  });
  scope.listen(element, "pointermove", (event) => {
    if (Math.hypot(event.clientX - left, event.clientY - top) > STILL) end();
  });
  scope.listen(element, "pointerup", end);
  scope.listen(element, "pointercancel", end);
  scope.add(end);
}
