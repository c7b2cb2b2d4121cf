/** The starter chart page: moods set the sliders, sliders show their values, the download is a plain form. */
import { Scope } from "../lib/scope.js";

const scope = new Scope();
const form = /** @type {HTMLFormElement} */ (document.querySelector("#look"));

function sayValues() {
  for (const slider of /** @type {NodeListOf<HTMLInputElement>} */ (form.querySelectorAll("input[type=range]"))) {
    const output = slider.parentElement?.querySelector("output");
    if (output) output.textContent = slider.value;
  }
}

scope.listen(form, "input", sayValues);
scope.listen(form, "click", (/** @type {MouseEvent} */ event) => {
  const target = /** @type {HTMLElement} */ (event.target);
  const mood = /** @type {HTMLElement | null} */ (target.closest("[data-lift]"));
  if (!mood) return;
  for (const name of ["lift", "lean", "opening"]) {
    /** @type {HTMLInputElement} */ (form.elements.namedItem(name)).value = mood.dataset[name] || "0";
  }
  form.dispatchEvent(new Event("input", { bubbles: true }));
});
scope.listen(window, "pagehide", () => scope.dispose());
sayValues();
