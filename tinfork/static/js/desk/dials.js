/** The dials of the character in hand: each turn is sent, and the mouths that come back are shown at once. */

const WAIT_MS = 60;

export class DialBoard {
  /**
   * @param {HTMLFormElement} form
   * @param {{shot: import("./model.js").Shot, hand: import("../lib/signal.js").Signal<import("./model.js").Character>,
   *   changed: (character: import("./model.js").Character) => void, trouble: (text: string) => void}} parts
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
    scope.listen(form, "input", (event) => this.turned(/** @type {HTMLElement} */ (event.target)));
    scope.listen(form, "submit", (event) => this.pressed(/** @type {SubmitEvent} */ (event)));
    scope.add(parts.hand.follow((character) => this.show(character.dials || {})));
    scope.add(() => clearTimeout(this.timer));
  }

  get dials() {
    return /** @type {HTMLInputElement[]} */ ([...this.form.querySelectorAll("[data-dial]")]);
  }

  /** @param {Record<string, number | boolean>} values */
  show(values) {
    // A part that is set by hand alone has none.
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

  /** The value beside its dial. */
  tell(/** @type {HTMLInputElement} */ input) {
    const told = input.parentElement?.querySelector("output");
    if (told) told.textContent = `${input.value}${input.dataset.after || ""}`;
  }

  turned(/** @type {HTMLElement} */ target) {
    if (target instanceof HTMLSelectElement && target.name === "preset") {
      if (target.value) this.send({ do: "preset", name: target.value });
      return;
    }
    if (!(target instanceof HTMLInputElement) || !target.dataset.dial) return;
    this.tell(target);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.send({ do: "turn", ...this.values() }), WAIT_MS);
  }

  values() {
    return Object.fromEntries(
      this.dials.map((input) => [
        input.dataset.dial,
        input.type === "checkbox" ? String(Number(input.checked)) : String(Math.round(Number(input.value) * Number(input.dataset.unit || 1))),
      ]),
    );
  }

  pressed(/** @type {SubmitEvent} */ event) {
    event.preventDefault();
    const button = /** @type {HTMLButtonElement | null} */ (event.submitter);
    const name = /** @type {HTMLInputElement} */ (this.form.elements.namedItem("name"));
    this.send({ do: button?.value || "turn", name: name.value });
  }

  /** @param {Record<string, string>} values */
  async send(values) {
    const character = this.parts.hand.value;
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
      // A later turn is under way: its answer counts.
      if (number !== this.sent) return;
      this.take(character, answer);
    } catch {
      this.parts.trouble("The dials could not be sent. Check the connection, then turn them again.");
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
    presets.replaceChildren(new Option("as they are", ""), ...answer.presets.map((/** @type {string} */ name) => new Option(name, name)));
    this.parts.changed(character);
  }
}
