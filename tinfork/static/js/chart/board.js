/**
 * Adding sounds to drawings by drag and by keyboard. A chip is picked up (dragged, or pressed) and dropped on a
 * drawing; the server responds with the new board.
 */
import { gettext } from "../lib/gettext.js";

export class Board {
  /**
   * @param {HTMLElement} root the element around the board
   * @param {(text: string) => void} say
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, say, scope) {
    this.root = root;
    this.say = say;
    /** @type {{claim: string, off: string} | null} */
    this.picked = null;
    /** @type {string} the drawing being moved, by its id */
    this.moving = "";
    this.zoom();
    // Capture the event before the drawing gets it, so that dropping a sound does not also open the drawing.
    scope.listen(root, "click", (event) => this.click(event), { capture: true });
    scope.listen(root, "keydown", (event) => this.key(event));
    scope.listen(root, "dragstart", (event) => this.dragStart(event));
    scope.listen(root, "dragover", (event) => this.dragOver(event));
    scope.listen(root, "dragleave", () => this.mark(null));
    scope.listen(root, "drop", (event) => this.drop(event));
    scope.listen(root, "dragend", () => this.letGo());
  }

  get board() {
    return /** @type {HTMLElement} */ (this.root.querySelector("#board"));
  }

  /** Scale pictures to their cards, since canvases have empty margins. */
  zoom() {
    this.board.style.setProperty("--zoom", this.board.dataset.zoom || "1");
  }

  /** @param {Event} event */
  chipOf(event) {
    return /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("button.chip"));
  }

  /** @param {Event} event */
  drawingOf(event) {
    return /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-drawing]"));
  }

  click(/** @type {MouseEvent} */ event) {
    const chip = this.chipOf(event);
    const drawing = this.drawingOf(event);
    if (chip && !(drawing && this.picked && this.picked.off !== chip.dataset.off)) {
      this.take(chip);
      return;
    }
    if (drawing && this.picked) {
      event.preventDefault();
      event.stopPropagation();
      this.lay(this.picked, drawing.dataset.drawing || "");
    } else if (drawing) {
      this.choose(drawing);
    }
  }

  /** Highlight the drawing of the form. */
  choose(/** @type {HTMLElement} */ drawing) {
    for (const one of this.root.querySelectorAll("[data-drawing][aria-current]")) one.removeAttribute("aria-current");
    drawing.setAttribute("aria-current", "true");
    this.chosen = drawing.dataset.drawing;
  }

  take(/** @type {HTMLElement} */ chip) {
    const again = chip.getAttribute("aria-pressed") === "true";
    this.letGo();
    if (again || chip.draggable === false) return;
    chip.setAttribute("aria-pressed", "true");
    this.picked = { claim: chip.dataset.claim || "", off: chip.dataset.off || "" };
    this.root.classList.add("holding");
    this.say(
      gettext("{claim} selected: press the drawing that shows it. Escape cancels.", { claim: this.picked.claim }),
    );
  }

  letGo() {
    for (const chip of this.root.querySelectorAll('.chip[aria-pressed="true"]'))
      chip.setAttribute("aria-pressed", "false");
    this.root.classList.remove("holding");
    this.picked = null;
    this.moving = "";
    this.mark(null);
  }

  key(/** @type {KeyboardEvent} */ event) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const chip = this.chipOf(event);
    if (event.key === "Escape" && this.picked) {
      this.letGo();
      this.say(gettext("Cancelled."));
    } else if ((event.key === "Delete" || event.key === "Backspace") && chip?.dataset.off) {
      event.preventDefault();
      this.send(
        this.root.dataset.sounds || "",
        { claim: chip.dataset.claim || "", off: chip.dataset.off },
        `drawing-${chip.dataset.off}`,
      );
    } else if (event.key.startsWith("Arrow")) {
      this.walk(event);
    }
  }

  /** Arrow keys move through the chips of the pool, or through the drawings. */
  walk(/** @type {KeyboardEvent} */ event) {
    const target = /** @type {HTMLElement} */ (event.target);
    const kin = target.closest(".pool")
      ? ".pool button.chip"
      : target.matches(".drawing .picture")
        ? ".drawing .picture"
        : "";
    if (!kin) return;
    const all = /** @type {HTMLElement[]} */ ([...this.root.querySelectorAll(kin)]).filter((one) => one.offsetParent);
    let step = event.key === "ArrowRight" || event.key === "ArrowDown" ? 1 : -1;
    if (kin.startsWith(".drawing") && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      const top = all[0].getBoundingClientRect().top;
      step *= all.filter((one) => Math.abs(one.getBoundingClientRect().top - top) < 4).length;
    }
    const next = all[all.indexOf(target) + step];
    if (next) {
      event.preventDefault();
      next.focus();
    }
  }

  dragStart(/** @type {DragEvent} */ event) {
    const chip = this.chipOf(event);
    const drawing = this.drawingOf(event);
    this.letGo();
    if (chip) this.take(chip);
    else if (drawing) this.moving = drawing.dataset.drawing || "";
    if (!event.dataTransfer || (!chip && !drawing)) return;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", chip ? chip.dataset.claim || "" : "");
  }

  dragOver(/** @type {DragEvent} */ event) {
    if (!this.picked && !this.moving) return;
    const drawing = this.drawingOf(event);
    const pool = /** @type {Element} */ (event.target).closest(".pool");
    if (!drawing && !(pool && this.picked?.off)) return;
    event.preventDefault();
    this.mark(drawing);
  }

  mark(/** @type {Element | null} */ drawing) {
    for (const one of this.root.querySelectorAll(".drawing.over")) if (one !== drawing) one.classList.remove("over");
    drawing?.classList.add("over");
  }

  drop(/** @type {DragEvent} */ event) {
    if (!this.picked && !this.moving) return;
    event.preventDefault();
    const drawing = this.drawingOf(event);
    const pool = /** @type {Element} */ (event.target).closest(".pool");
    if (this.moving && drawing) {
      this.send(
        this.root.dataset.order || "",
        { drawing: this.moving, before: drawing.dataset.drawing || "" },
        `drawing-${this.moving}`,
      );
    } else if (this.picked && drawing) {
      this.lay(this.picked, drawing.dataset.drawing || "");
    } else if (this.picked?.off && pool) {
      this.send(
        this.root.dataset.sounds || "",
        { claim: this.picked.claim, off: this.picked.off },
        `pool-${this.picked.claim}`,
      );
    }
    this.letGo();
  }

  /**
   * @param {{claim: string, off: string}} held
   * @param {string} on
   */
  lay(held, on) {
    this.letGo();
    if (held.off === on) return;
    this.send(
      this.root.dataset.sounds || "",
      { claim: held.claim, on, off: held.off },
      held.off ? `on-${on}-${held.claim}` : `pool-${held.claim}`,
    );
  }

  /** Move the selected drawing earlier or later. */
  move(/** @type {number} */ by) {
    const all = /** @type {HTMLElement[]} */ ([...this.root.querySelectorAll("[data-drawing]")]);
    const at = all.findIndex((one) => one.dataset.drawing === this.chosen);
    const before = by < 0 ? all[at - 1] : all[at + 2];
    if (at < 0 || (by < 0 && !before)) return;
    this.send(this.root.dataset.order || "", { drawing: this.chosen || "", before: before?.dataset.drawing || "" }, "");
  }

  /** Reload the board. */
  async refresh() {
    this.swap(
      await fetch(this.root.dataset.board || "", { headers: { "HX-Request": "true" } }),
      document.activeElement?.id || "",
    );
  }

  /**
   * @param {string} address
   * @param {Record<string, string>} values
   * @param {string} focus the id that has the focus afterwards
   */
  async send(address, values, focus) {
    const body = new URLSearchParams(values);
    const headers = { "X-CSRFToken": this.root.dataset.csrf || "" };
    try {
      this.swap(await fetch(address, { method: "POST", body, headers }), focus);
    } catch {
      this.say(gettext("Connection lost. Nothing was changed; try again."));
      this.trouble(gettext("Connection lost. Nothing was changed; try again."));
    }
  }

  /**
   * @param {Response} response
   * @param {string} focus
   */
  async swap(response, focus) {
    const text = await response.text();
    const page = new DOMParser().parseFromString(text, "text/html");
    const fresh = page.querySelector("#board");
    if (!fresh) {
      this.trouble(
        response.status === 403
          ? gettext("Your role in this studio does not allow that.")
          : gettext("That failed. Reload the page."),
      );
      return;
    }
    const scrolled = this.board.querySelector(".pool ul")?.scrollTop || 0;
    const opened = [...this.board.querySelectorAll("details[open] summary")].map((one) =>
      one.getAttribute("aria-label"),
    );
    this.board.replaceWith(document.adoptNode(fresh));
    this.zoom();
    const pool = this.board.querySelector(".pool ul");
    if (pool) pool.scrollTop = scrolled;
    for (const summary of this.board.querySelectorAll("details summary")) {
      if (opened.includes(summary.getAttribute("aria-label")))
        /** @type {HTMLDetailsElement} */ (summary.parentElement).open = true;
    }
    /** @type {any} */ (window).htmx?.process(this.board);
    const chosen = /** @type {HTMLElement | null} */ (this.root.querySelector(`[data-drawing="${this.chosen}"]`));
    if (chosen) this.choose(chosen);
    if (focus) document.getElementById(focus)?.focus();
    const coverage = this.board.querySelector('[data-part="coverage"]');
    const trouble = this.board.querySelector('[role="alert"]');
    this.say((trouble || coverage)?.textContent?.trim() || "");
  }

  trouble(/** @type {string} */ text) {
    let notice = this.board.querySelector(".notice");
    if (!notice) {
      notice = document.createElement("div");
      notice.className = "notice";
      notice.setAttribute("role", "alert");
      this.board.querySelector(".drawings")?.prepend(notice);
    }
    notice.textContent = text;
  }
}
