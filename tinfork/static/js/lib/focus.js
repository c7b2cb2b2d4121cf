/**
 * Keep the focus when htmx replaces a part of the page, for example while a job runs: on the same control of the new
 * part, or else on the part itself, so that Tab continues from there.
 */

/** The identity of a control before and after the replacement. @param {Element} element */
function markOf(element) {
  const form = /** @type {HTMLFormElement | null} */ (element.closest("form"))?.getAttribute("action") || "";
  return [element.tagName, element.id, element.getAttribute("name"), element.getAttribute("href"), form].join(" ");
}

/** @param {ParentNode} root @param {string} mark */
const find = (root, mark) =>
  [...root.querySelectorAll("a, button, input, select, textarea, summary, [tabindex]")].find(
    (one) => markOf(one) === mark,
  );

export function keepFocus() {
  /** @type {{mark: string, id: string} | null} */
  let held = null;
  document.addEventListener("htmx:before:swap", () => {
    const focused = document.activeElement;
    const part = focused?.closest("[hx-get][id], [hx-post][id]");
    held = focused && part ? { mark: markOf(focused), id: part.id } : null;
  });
  document.addEventListener("htmx:after:swap", () => {
    const part = held && document.getElementById(held.id);
    if (!held || !part || part.contains(document.activeElement)) return;
    const same = /** @type {HTMLElement | undefined} */ (find(part, held.mark));
    if (!same) part.tabIndex = -1;
    (same || part).focus({ preventScroll: true });
    held = null;
  });
}
