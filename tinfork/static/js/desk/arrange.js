/**
 * Arranging the shot's picture: moving, resizing, turning and mirroring characters on the Stage, the background, and
 * the boil of lines.
 */

import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";

/** @typedef {import("../lib/lay.js").Stand} Stand */

/** How often to check whether an uploaded background is ready (milliseconds). */
const ASK_MS = 400;
/** The factor of a notch of the wheel on the size. */
const NOTCH = 1.05;

const clamp = (/** @type {number} */ value, /** @type {number} */ low, /** @type {number} */ high) =>
  Math.min(high, Math.max(low, value));
const short = (/** @type {number} */ value) => Math.round(value * 10_000) / 10_000;

export class Arrange {
  /**
   * @param {HTMLFormElement} form
   * @param {{stage: import("./stage.js").Stage, shot: import("./model.js").Shot, edits: import("./edits.js").Edits,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>, said: (text: string) => void,
   *   changes: string}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(form, parts, scope) {
    this.form = form;
    this.parts = parts;
    this.isOn = false;
    /**
     * What will be sent shortly after the last of several changes. @type {{send: () => void, timer: number} | null}
     */
    this.waiting = null;
    const { stage } = parts;
    scope.listen(stage.picture, "pointerdown", (event) => this.press(/** @type {PointerEvent} */ (event)));
    scope.listen(stage.picture, "wheel", (event) => this.wheel(/** @type {WheelEvent} */ (event)), { passive: false });
    scope.listen(form, "input", (event) => this.type(/** @type {HTMLInputElement} */ (event.target)));
    scope.listen(form, "submit", (event) => event.preventDefault());
    for (const button of form.querySelectorAll("button"))
      scope.listen(button, "click", () => this.choose(String(button.dataset.arrange)));
    scope.listen(form, "keydown", (event) => {
      if (/** @type {KeyboardEvent} */ (event).key === "Escape") this.turn(false);
    });
    scope.add(parts.activeCharacter.follow(() => this.fill()));
    // Send at once when the field or the page is left.
    scope.listen(form, "change", () => this.flush());
    scope.add(() => this.flush());
  }

  field(/** @type {string} */ name) {
    return /** @type {HTMLInputElement} */ (this.form.elements.namedItem(name));
  }

  /** The active figure. */
  get figure() {
    return this.parts.stage.activeFigure;
  }

  /** Start and stop arranging. */
  turn(on = !this.isOn) {
    if (!this.parts.edits.may) return;
    this.flush();
    this.isOn = on;
    const { root, isClose } = this.parts.stage;
    root.dataset.arranging = String(on);
    this.form.hidden = !on;
    if (on) isClose.value = false;
    document.querySelector('[data-do="arrange"]')?.setAttribute("aria-pressed", String(on));
    this.fill();
    this.parts.stage.layOut();
    if (on) this.field("size").focus();
  }

  /** Update the fields from the active figure. */
  fill() {
    const { stand, character } = this.figure;
    const values = { x: 100 * stand.x, y: 100 * stand.y, size: 100 * stand.size, turn: stand.turn };
    for (const [name, value] of Object.entries(values))
      if (document.activeElement !== this.field(name)) this.field(name).value = String(Math.round(10 * value) / 10);
    this.field("mirrored").checked = stand.mirrored;
    const { boil } = this.parts.shot.layout;
    if (document.activeElement !== this.field("strength")) this.field("strength").value = String(boil.strength);
    this.field("rhythm").value = String(boil.rhythm);
    this.field("colour").value = this.parts.shot.layout.ground;
    /** @type {HTMLElement} */ (this.form.querySelector('[data-part="who"]')).textContent = character.name;
    /** @type {HTMLElement} */ (this.form.querySelector('[data-arrange="clear"]')).hidden =
      !this.parts.shot.layout.background;
  }

  /** Change the place of the active figure: draw it now, send it after the drag. */
  set(/** @type {Partial<Stand>} */ change, isDone = true) {
    const { figure, parts } = this;
    const stand = { ...figure.stand, ...change };
    for (const name of /** @type {const} */ (["x", "y", "size", "turn"])) stand[name] = short(stand[name]);
    parts.shot.layout.stands[String(figure.character.id)] = stand;
    parts.stage.place();
    this.fill();
    this.later(() => parts.edits.send("stand", { speaker: String(figure.character.id), ...stand }), isDone ? 0 : 500);
  }

  /** Send something once nothing has changed for a while; it replaces what was waiting. */
  later(/** @type {() => void} */ send, /** @type {number} */ ms) {
    clearTimeout(this.waiting?.timer);
    this.waiting = null;
    if (ms) this.waiting = { send, timer: window.setTimeout(() => this.flush(), ms) };
    else send();
  }

  flush() {
    const { waiting } = this;
    if (!waiting) return;
    clearTimeout(waiting.timer);
    this.waiting = null;
    waiting.send();
  }

  press(/** @type {PointerEvent} */ event) {
    const on = /** @type {Element} */ (event.target).closest(".figure");
    if (!this.isOn || !on || event.button) return;
    event.preventDefault();
    this.flush();
    const { size } = this.parts.stage;
    const from = { ...this.figure.stand };
    const [x, y] = [event.clientX, event.clientY];
    let hasMoved = false;
    const to = (/** @type {PointerEvent} */ at) => ({
      x: clamp(from.x + (at.clientX - x) / size.width, -2, 3),
      y: clamp(from.y + (at.clientY - y) / size.height, -2, 3),
    });
    drag(
      this.parts.stage.picture,
      event,
      (at) => {
        hasMoved ||= Math.hypot(at.clientX - x, at.clientY - y) > 2;
        if (!hasMoved) return;
        Object.assign(this.figure.stand, to(at));
        this.parts.stage.place();
      },
      (at) => {
        if (!hasMoved) return;
        Object.assign(this.figure.stand, from);
        this.set(to(at));
      },
    );
  }

  wheel(/** @type {WheelEvent} */ event) {
    if (!this.isOn) return;
    event.preventDefault();
    const { stand } = this.figure;
    if (event.shiftKey)
      this.set({ turn: clamp(stand.turn + Math.sign(event.deltaY || event.deltaX) * 2, -180, 180) }, false);
    else this.set({ size: clamp(stand.size * NOTCH ** -Math.sign(event.deltaY), 0.02, 10) }, false);
  }

  type(/** @type {HTMLInputElement} */ field) {
    const value = Number(field.value);
    if (field.name === "picture") this.hang(field);
    else if (field.name === "colour") {
      this.parts.shot.layout.ground = field.value;
      this.parts.stage.place();
      this.later(() => this.parts.edits.send("ground", { colour: field.value }), 400);
    } else if (field.name === "strength" || field.name === "rhythm") {
      const boil = { strength: Number(this.field("strength").value), rhythm: Number(this.field("rhythm").value) };
      this.later(() => this.parts.edits.send("boil", boil), field.name === "strength" ? 400 : 0);
    } else if (field.name === "mirrored") this.set({ mirrored: field.checked });
    else if (field.validity.valid && field.value)
      this.set(field.name === "turn" ? { turn: value } : { [field.name]: value / 100 }, false);
  }

  choose(/** @type {string} */ what) {
    const depths = this.parts.stage.figures.map((figure) => figure.stand.depth);
    if (what === "front") this.set({ depth: Math.min(99, Math.max(...depths) + 1) });
    else if (what === "back") this.set({ depth: Math.max(-99, Math.min(...depths) - 1) });
    else if (what === "reset")
      this.parts.edits.send("stand", { speaker: String(this.figure.character.id), usual: true });
    else if (what === "clear") this.parts.edits.send("ground", { colour: this.parts.shot.layout.ground, clear: true });
    else if (what === "done") this.turn(false);
  }

  /** Upload a background, which is shown when the server has processed it. */
  async hang(/** @type {HTMLInputElement} */ field) {
    const data = new FormData();
    if (!field.files?.[0]) return;
    data.set("picture", field.files[0]);
    const { said, edits, shot, changes } = this.parts;
    const token = /** @type {HTMLInputElement} */ (this.form.elements.namedItem("csrfmiddlewaretoken")).value;
    said("");
    field.disabled = true;
    try {
      const answer = await fetch(String(this.form.dataset.background), {
        method: "POST",
        body: data,
        headers: { "X-CSRFToken": token },
      });
      const told = await answer.json();
      if (!answer.ok) throw new Error(told.error);
      const was = shot.layout.background;
      for (let tries = 0; tries < 200 && shot.layout.background === was; tries += 1) {
        await new Promise((resolve) => setTimeout(resolve, ASK_MS));
        const job = await fetch(`/jobs/${told.job}/`).then((one) => one.text());
        const wrong = new DOMParser().parseFromString(job, "text/html").querySelector('[role="alert"]');
        if (wrong) throw new Error(wrong.textContent?.trim() || "");
        await edits.look(changes);
        if (/data-state="(done|cancelled)"/.test(job)) break;
      }
    } catch (error) {
      said(
        error instanceof Error && error.message
          ? error.message
          : gettext("The picture could not be uploaded. Try again."),
      );
    }
    field.disabled = false;
    field.value = "";
    this.fill();
  }
}
