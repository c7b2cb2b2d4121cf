/**
 * Named versions of the shot: saving, comparing with the current state (differences are marked, and both can be
 * played), restoring.
 */
import { gettext, ngettext } from "../lib/gettext.js";

/**
 * @typedef {{name: string, characters: Record<string, {holds: import("./model.js").Hold[], differs: Array<[number,
 * number]>}>}} Compared
 */

export class Versions {
  /**
   * @param {HTMLDialogElement} dialog
   * @param {{shot: import("./model.js").Shot, edits: import("./edits.js").Edits, token: string, bar: HTMLElement,
   *   sheet: import("./sheet.js").Sheet, changed: () => void, said: (text: string) => void}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(dialog, parts, scope) {
    this.dialog = dialog;
    this.parts = parts;
    this.list = /** @type {HTMLElement} */ (dialog.querySelector("ul"));
    this.trouble = /** @type {HTMLElement} */ (dialog.querySelector('[role="alert"]'));
    /** @type {Compared | null} */
    this.compared = null;
    /**
     * The current holds, while those of a version are shown. @type {Map<number, import("./model.js").Hold[]> | null}
     */
    this.now = null;
    scope.listen(dialog, "submit", (/** @type {SubmitEvent} */ event) => {
      const form = /** @type {HTMLFormElement} */ (event.target);
      if (form.method === "dialog") return;
      event.preventDefault();
      this.ask(dialog.dataset.url || "", new FormData(form)).then((told) => told && form.reset());
    });
    scope.listen(this.list, "click", (event) => this.click(/** @type {HTMLElement} */ (event.target)));
    scope.listen(parts.bar, "click", (event) => {
      const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-version]");
      if (pressed instanceof HTMLElement) this.bar(pressed.dataset.version || "");
    });
  }

  open() {
    this.dialog.showModal();
    this.ask(this.dialog.dataset.url || "");
  }

  /** Request or post; updates the list. Returns the response, or null. */
  async ask(/** @type {string} */ url, /** @type {FormData | null} */ form = null) {
    this.trouble.textContent = "";
    try {
      const answer = await fetch(
        url,
        form ? { method: "POST", body: form, headers: { "X-CSRFToken": this.parts.token } } : {},
      );
      const told = await answer.json();
      if (told.error) throw new Error(told.error);
      if (told.versions) this.fill(told.versions);
      return told;
    } catch (error) {
      this.trouble.textContent =
        error instanceof TypeError
          ? gettext("No connection. Try again when you are back online.")
          : String(/** @type {Error} */ (error).message);
      return null;
    }
  }

  fill(/** @type {Array<{id: number, name: string, by: string, made: string}>} */ versions) {
    const template = /** @type {HTMLTemplateElement} */ (this.dialog.querySelector("template"));
    const rows = versions.map((version) => {
      const row = /** @type {HTMLElement} */ (template.content.firstElementChild?.cloneNode(true));
      row.dataset.id = String(version.id);
      /** @type {HTMLElement} */ (row.querySelector("strong")).textContent = version.name;
      /** @type {HTMLElement} */ (row.querySelector(".quiet")).textContent =
        `${new Date(version.made).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" })}${version.by ? `, ${version.by}` : ""}`;
      return row;
    });
    this.list.replaceChildren(...rows);
    /** @type {HTMLElement} */ (this.dialog.querySelector('[data-part="none"]')).hidden = versions.length > 0;
  }

  async click(/** @type {HTMLElement} */ target) {
    const button = target.closest("[data-what]");
    const id = target.closest("li")?.dataset.id;
    if (!(button instanceof HTMLElement) || !id) return;
    const url = `${this.dialog.dataset.url}/${id}`;
    if (button.dataset.what === "compare") {
      const told = await this.ask(url);
      if (told) this.compare(told);
      return;
    }
    const form = new FormData();
    form.set("what", button.dataset.what || "");
    const told = await this.ask(url, form);
    if (!told?.document) return;
    this.stop();
    this.parts.edits.take(told.document);
    this.dialog.close();
  }

  compare(/** @type {Compared} */ compared) {
    this.stop();
    this.compared = compared;
    const { sheet, bar, shot } = this.parts;
    let frames = 0;
    for (const character of shot.characters) {
      const differs = compared.characters[String(character.id)]?.differs || [];
      sheet.differs.set(character.id, differs);
      frames += differs.reduce((sum, [a, b]) => sum + b - a, 0);
    }
    /** @type {HTMLElement} */ (bar.querySelector('[data-part="name"]')).textContent = frames
      ? ngettext("“{name}” and now: {count} frame differs", "“{name}” and now: {count} frames differ", frames, {
          name: compared.name,
        })
      : gettext("“{name}” and now: no frame differs", { name: compared.name });
    bar.hidden = false;
    this.show(false);
    this.dialog.close();
  }

  /** Show the mouths of the version, or the current ones. */
  show(/** @type {boolean} */ isVersion) {
    const { shot, bar } = this.parts;
    if (isVersion && this.compared && !this.now) {
      this.now = new Map(shot.characters.map((one) => [one.id, one.holds]));
      for (const one of shot.characters) one.holds = this.compared.characters[String(one.id)]?.holds || one.holds;
    } else if (!isVersion && this.now) {
      for (const one of shot.characters) one.holds = this.now.get(one.id) || one.holds;
      this.now = null;
    }
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (bar.querySelectorAll("[aria-pressed]"))) {
      button.setAttribute("aria-pressed", String((button.dataset.version === "then") === isVersion));
    }
    this.parts.changed();
  }

  bar(/** @type {string} */ what) {
    if (what === "close") this.stop();
    else this.show(what === "then");
  }

  /** End the comparison. */
  stop() {
    if (!this.compared) return;
    this.show(false);
    this.compared = null;
    this.parts.sheet.differs.clear();
    this.parts.bar.hidden = true;
    this.parts.changed();
  }
}
