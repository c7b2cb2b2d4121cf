/**
 * The list of commands with their keys, in groups, with a search; commands can be run, get another key, and be printed.
 * Custom keys are stored in this browser.
 */
import { gettext } from "./gettext.js";
import { namesOf, shownOf } from "./keys.js";

/** @typedef {import("./keys.js").Key} Key */

/** Keys that cannot be assigned: they move the focus, or close dialogs. */
const TAKEN = ["Tab", "shift+Tab", "Escape", "Shift", "Control", "Alt", "Meta", "CapsLock", "Dead"];

export class CommandList {
  /**
   * @param {HTMLDialogElement} dialog
   * @param {Record<string, Key>} table
   * @param {string} place under which chosen keys are kept
   * @param {import("./scope.js").Scope} scope
   */
  constructor(dialog, table, place, scope) {
    this.dialog = dialog;
    this.table = table;
    this.storage = `tinfork-keys-${place}`;
    const find = (/** @type {string} */ name) =>
      /** @type {HTMLElement} */ (dialog.querySelector(`[data-part="${name}"]`));
    this.field = /** @type {HTMLInputElement} */ (find("find"));
    this.list = find("list");
    this.said = find("said");
    /** @type {Map<string, Pick<Key, "keys" | "shown">>} keys as they are for everyone */
    this.usual = new Map(Object.entries(table).map(([name, { keys, shown }]) => [name, { keys, shown }]));
    /** @type {Record<string, string>} chosen keys by command */
    this.chosen = this.kept();
    for (const [name, key] of Object.entries(this.chosen)) this.give(name, key);
    /** @type {string} the command that is being given another key */
    this.asked = "";
    scope.listen(this.field, "input", () => this.filter());
    scope.listen(dialog, "keydown", (/** @type {KeyboardEvent} */ event) => this.key(event));
    scope.listen(dialog, "click", (event) => this.click(/** @type {HTMLElement} */ (event.target)));
    scope.listen(dialog, "close", () => {
      this.asked = "";
      this.list.replaceChildren();
    });
  }

  /** @returns {Record<string, string>} */
  kept() {
    try {
      const kept = JSON.parse(localStorage.getItem(this.storage) || "{}");
      return Object.fromEntries(
        Object.entries(kept).filter(([name, key]) => this.table[name] && typeof key === "string"),
      );
    } catch {
      return {};
    }
  }

  /** Open the list, with the focus in the search field. */
  open() {
    this.field.value = "";
    this.said.textContent = "";
    this.build();
    this.filter();
    this.dialog.showModal();
    this.field.focus();
  }

  give(/** @type {string} */ name, /** @type {string} */ key) {
    Object.assign(this.table[name], { keys: [key], shown: shownOf(key) });
  }

  build() {
    /** @type {Map<string, HTMLElement>} */
    const groups = new Map();
    this.list.replaceChildren();
    for (const [name, entry] of Object.entries(this.table)) {
      const title = entry.group || "";
      let group = groups.get(title);
      if (!group) {
        const section = document.createElement("section");
        const head = document.createElement("h3");
        head.textContent = title;
        group = document.createElement("ul");
        section.append(head, group);
        this.list.append(section);
        groups.set(title, group);
      }
      group.append(this.row(name, entry));
    }
  }

  row(/** @type {string} */ name, /** @type {Key} */ entry) {
    const row = document.createElement("li");
    row.dataset.command = name;
    const run = document.createElement("button");
    run.type = "button";
    run.dataset.act = "run";
    run.textContent = entry.what;
    const change = document.createElement("button");
    change.type = "button";
    change.dataset.act = "change";
    change.title = gettext("Change the key");
    change.setAttribute("aria-label", gettext("Change the key of: {command}", { command: entry.what }));
    const key = document.createElement("kbd");
    key.textContent = entry.shown;
    change.append(key);
    row.append(run, change);
    return row;
  }

  /** Filter the commands by all typed words. */
  filter() {
    const words = this.field.value.toLowerCase().split(/\s+/).filter(Boolean);
    for (const row of /** @type {HTMLElement[]} */ ([...this.list.querySelectorAll("li")])) {
      const text = (row.textContent || "").toLowerCase();
      row.hidden = !words.every((word) => text.includes(word));
    }
    for (const section of /** @type {HTMLElement[]} */ ([...this.list.children]))
      section.hidden = !section.querySelector("li:not([hidden])");
    const none = !this.list.querySelector("li:not([hidden])");
    this.said.textContent = none ? gettext("No command has these words.") : "";
  }

  key(/** @type {KeyboardEvent} */ event) {
    if (this.asked) {
      event.preventDefault();
      event.stopPropagation();
      if (event.key === "Escape") this.ask("");
      else if (!TAKEN.includes(event.key)) this.choose(namesOf(event)[0]);
    } else if (event.key === "Enter" && event.target === this.field) {
      event.preventDefault();
      const first = /** @type {HTMLElement | null} */ (this.list.querySelector("li:not([hidden])"));
      if (first) this.run(first.dataset.command || "");
    } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      const rows = /** @type {HTMLElement[]} */ ([
        this.field,
        ...this.list.querySelectorAll("li:not([hidden]) [data-act=run]"),
      ]);
      const at = rows.indexOf(/** @type {HTMLElement} */ (document.activeElement));
      rows[Math.max(0, Math.min(rows.length - 1, at + (event.key === "ArrowDown" ? 1 : -1)))].focus();
      event.preventDefault();
    }
  }

  click(/** @type {HTMLElement} */ target) {
    const button = target.closest("[data-act]");
    if (!(button instanceof HTMLElement)) return;
    const name = /** @type {HTMLElement | null} */ (button.closest("li"))?.dataset.command || "";
    if (button.dataset.act === "run") this.run(name);
    else if (button.dataset.act === "change") this.ask(this.asked === name ? "" : name);
    else if (button.dataset.act === "reset") this.reset();
    else if (button.dataset.act === "print") window.print();
  }

  run(/** @type {string} */ name) {
    this.dialog.close();
    this.table[name].run();
  }

  /** Wait for the new key of a command. */
  ask(/** @type {string} */ name) {
    this.asked = name;
    for (const row of /** @type {HTMLElement[]} */ ([...this.list.querySelectorAll("li")]))
      row.toggleAttribute("data-asked", row.dataset.command === name);
    this.said.textContent = name
      ? gettext("Press the new key for “{command}”. Escape cancels.", { command: this.table[name].what })
      : "";
  }

  choose(/** @type {string} */ key) {
    const name = this.asked;
    const other = Object.entries(this.table).find(([own, entry]) => own !== name && entry.keys.includes(key));
    if (other) {
      this.said.textContent = gettext("That key is used for “{command}”. Press another one.", {
        command: other[1].what,
      });
      return;
    }
    this.chosen[name] = key;
    localStorage.setItem(this.storage, JSON.stringify(this.chosen));
    this.give(name, key);
    this.shown(name);
    this.ask("");
  }

  shown(/** @type {string} */ name) {
    const key = this.list.querySelector(`[data-command="${name}"] kbd`);
    if (key) key.textContent = this.table[name].shown;
  }

  /** Reset to the default keys. */
  reset() {
    this.chosen = {};
    localStorage.removeItem(this.storage);
    for (const [name, usual] of this.usual) {
      Object.assign(this.table[name], usual);
      this.shown(name);
    }
    this.said.textContent = gettext("All keys are as they came.");
  }
}
