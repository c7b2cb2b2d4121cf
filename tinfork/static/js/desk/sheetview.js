/** The panel for choosing the Sheet's columns, their order, and the height of rows. */
import { gettext } from "../lib/gettext.js";

export class SheetView {
  /**
   * @param {HTMLDetailsElement} panel
   * @param {{columns: import("./columns.js").Columns, sheet: import("./sheet.js").Sheet}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(panel, parts, scope) {
    this.panel = panel;
    this.parts = parts;
    scope.listen(panel, "change", (event) => this.change(/** @type {HTMLInputElement} */ (event.target)));
    scope.listen(panel, "click", (event) => {
      const button = /** @type {HTMLElement} */ (event.target).closest("[data-by]");
      if (!(button instanceof HTMLElement)) return;
      const name = button.closest("li")?.dataset.column || "";
      parts.columns.move(name, Number(button.dataset.by));
      this.fill();
      /** @type {HTMLElement | null} */ (
        panel.querySelector(`[data-column="${name}"] [data-by="${button.dataset.by}"]`)
      )?.focus();
      parts.sheet.arrange();
    });
    scope.listen(panel, "keydown", (/** @type {KeyboardEvent} */ event) => {
      if (event.key === "Escape") panel.open = false;
    });
    scope.listen(document, "pointerdown", (event) => {
      if (!panel.contains(/** @type {Node} */ (event.target))) panel.open = false;
    });
    this.fill();
  }

  fill() {
    const { columns } = this.parts;
    const template = /** @type {HTMLTemplateElement} */ (this.panel.querySelector("template"));
    const rows = columns.order.map((name) => {
      const row = /** @type {HTMLElement} */ (template.content.firstElementChild?.cloneNode(true));
      const box = /** @type {HTMLInputElement} */ (row.querySelector("input"));
      row.dataset.column = name;
      box.checked = !columns.hidden.has(name);
      /** @type {HTMLElement} */ (row.querySelector("span")).textContent = columns.label(name);
      for (const button of /** @type {NodeListOf<HTMLElement>} */ (row.querySelectorAll("[data-by]"))) {
        button.setAttribute(
          "aria-label",
          `${columns.label(name)} ${button.dataset.by === "1" ? gettext("to the right") : gettext("to the left")}`,
        );
      }
      return row;
    });
    /** @type {HTMLElement} */ (this.panel.querySelector("ul")).replaceChildren(...rows);
    for (const size of /** @type {NodeListOf<HTMLInputElement>} */ (this.panel.querySelectorAll("[name=rows]")))
      size.checked = size.value === columns.rows;
  }

  change(/** @type {HTMLInputElement} */ input) {
    const { columns, sheet } = this.parts;
    if (input.name === "rows") columns.setRows(/** @type {any} */ (input.value));
    else columns.show(input.closest("li")?.dataset.column || "", input.checked);
    sheet.arrange();
  }
}
