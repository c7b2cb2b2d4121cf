/** The dials of the active character. Dragging one previews the mouths; releasing it makes an edit. */
import { gettext } from "../lib/gettext.js";

const WAIT_MS = 60;

/** Labels of the grid, by its number of frames. */
export const GRIDS = ["", gettext("ones"), gettext("twos"), gettext("threes"), gettext("fours")];

export class DialBoard {
  /**
   * @param {HTMLFormElement} form
   * @param {{shot: import("./model.js").Shot, activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>,
   *   edits: import("./edits.js").Edits, changed: (character: import("./model.js").Character) => void, trouble: (text: string) => void}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(form, parts, scope) {
    this.form = form;
    this.parts = parts;
    /** @type {number | undefined} */
    this.timer = undefined;
    this.sent = 0;
    /** @type {boolean | undefined} whether nothing may be changed at all */
    this.isLocked = undefined;
    /** Whether a dial is being dragged: then changes of others do not move it. */
    this.turning = false;
    scope.listen(form, "input", (event) => this.turned(/** @type {HTMLElement} */ (event.target)));
    scope.listen(form, "change", (event) => this.set(/** @type {HTMLElement} */ (event.target)));
    scope.listen(form, "submit", (event) => this.pressed(/** @type {SubmitEvent} */ (event)));
    // A dial dragged back to its old value fires no change event, but the drag is over.
    for (const over of ["pointerup", "focusout"]) scope.listen(form, over, () => (this.turning = false));
    scope.add(parts.activeCharacter.follow((character) => this.show(character.dials || {})));
    scope.add(() => clearTimeout(this.timer));
  }

  get dials() {
    return /** @type {HTMLInputElement[]} */ ([...this.form.querySelectorAll("[data-dial]")]);
  }

  /** @param {Record<string, number | boolean>} values */
  show(values) {
    // Parts that are only set by hand have no dials.
    const fields = /** @type {HTMLFieldSetElement} */ (this.form.querySelector("fieldset"));
    this.isLocked ??= fields.disabled;
    fields.disabled = this.isLocked || !("lead" in values);
    if (!("lead" in values)) return;
    for (const input of this.dials) {
      const value = values[input.dataset.dial || ""];
      if (input.type === "checkbox") input.checked = Boolean(value);
      else input.value = String(Number(value) / Number(input.dataset.unit || 1));
      this.tell(input);
    }
  }

  /** Show the value beside its dial. */
  tell(/** @type {HTMLInputElement} */ input) {
    const told = input.parentElement?.querySelector("output");
    if (told)
      told.textContent =
        input.dataset.dial === "grid" ? GRIDS[Number(input.value)] : `${input.value}${input.dataset.after || ""}`;
  }

  /** Update all dials, except one that is being dragged. */
  refresh() {
    if (this.turning) return;
    this.show(this.parts.activeCharacter.value.dials || {});
    /** @type {HTMLSelectElement} */ (this.form.elements.namedItem("preset")).value = "";
  }

  turned(/** @type {HTMLElement} */ target) {
    if (!(target instanceof HTMLInputElement) || !target.dataset.dial) return;
    this.turning = true;
    this.tell(target);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask({ do: "try", ...this.values() }), WAIT_MS);
  }

  set(/** @type {HTMLElement} */ target) {
    const isPreset = target instanceof HTMLSelectElement && target.name === "preset";
    if (isPreset && target.value) this.edit({ preset: target.value });
    if (target instanceof HTMLInputElement && target.dataset.dial) this.edit({ values: this.numbers() });
  }

  /** @param {Record<string, unknown>} parameters */
  edit(parameters) {
    clearTimeout(this.timer);
    this.turning = false;
    // Ignore responses to earlier previews.
    this.sent += 1;
    this.form.dataset.state = "settled";
    this.parts.edits.send("dials", { speaker: String(this.parts.activeCharacter.value.id), ...parameters });
  }

  /** @returns {Record<string, number | boolean>} */
  numbers() {
    return Object.fromEntries(
      this.dials.map((input) => [
        input.dataset.dial,
        input.type === "checkbox" ? input.checked : Math.round(Number(input.value) * Number(input.dataset.unit || 1)),
      ]),
    );
  }

  /** The same for a form. */
  values() {
    return Object.fromEntries(Object.entries(this.numbers()).map(([name, value]) => [name, String(Number(value))]));
  }

  pressed(/** @type {SubmitEvent} */ event) {
    event.preventDefault();
    const button = /** @type {HTMLButtonElement | null} */ (event.submitter);
    const name = /** @type {HTMLInputElement} */ (this.form.elements.namedItem("name"));
    if (button?.value === "usual") this.edit({ usual: true });
    else if (button) this.ask({ do: button.value, name: name.value });
  }

  /** @param {Record<string, string>} values */
  async ask(values) {
    const character = this.parts.activeCharacter.value;
    const number = ++this.sent;
    const body = new FormData(this.form);
    for (const key of ["preset", "name", "do"]) body.delete(key);
    body.set("character", String(character.id));
    for (const [key, value] of Object.entries(values)) body.set(key, value);
    this.form.dataset.state = "asking";
    try {
      const response = await fetch(this.form.action, { method: "POST", body });
      const answer = await response.json();
      if (!response.ok) {
        this.parts.trouble(answer.error);
        this.show(character.dials || {});
        return;
      }
      this.parts.trouble("");
      // A later request is running: its response counts.
      if (number !== this.sent) return;
      this.take(character, answer);
    } catch {
      this.parts.trouble(gettext("The settings could not be saved. Check the connection and change them again."));
      this.show(character.dials || {});
    } finally {
      if (number === this.sent) this.form.dataset.state = "settled";
    }
  }

  /**
   * @param {import("./model.js").Character} character
   * @param {any} answer
   */
  take(character, answer) {
    character.dials = answer.dials;
    character.holds = answer.holds;
    character.numbers = answer.numbers;
    this.parts.shot.looks = answer.looks;
    this.show(answer.dials);
    const presets = /** @type {HTMLSelectElement} */ (this.form.elements.namedItem("preset"));
    presets.replaceChildren(
      new Option(gettext("Current settings"), ""),
      ...answer.presets.map((/** @type {string} */ name) => new Option(name, name)),
    );
    this.parts.changed(character);
  }
}
