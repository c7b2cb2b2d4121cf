/**
 * Remarks at the Desk: adding one on the frame or the selected frames, with a drawing on the picture; drawings of
 * others are shown on their frames.
 */

import { gettext } from "../lib/gettext.js";
import { Sketch } from "../lib/sketch.js";

/** The kind of second looks for remarks. */
const REMARK = "remark";

export class Remarking {
  /**
   * @param {HTMLFormElement | null} form where one is made; null for who may make none
   * @param {HTMLElement} world what lies on the picture
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   selection: import("./selection.js").Selection, edits: import("./edits.js").Edits, token: string,
   *   said: (text: string) => void}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(form, world, parts, scope) {
    this.form = form;
    this.parts = parts;
    const canvas = document.createElement("canvas");
    canvas.className = "sketch";
    canvas.setAttribute("aria-hidden", "true");
    world.append(canvas);
    this.sketch = new Sketch(canvas, () => this.mark());
    scope.add(parts.transport.frame.follow(() => this.show()));
    scope.add(parts.transport.playing.follow(() => this.show()));
    scope.add(parts.selection.range.follow(() => this.mark()));
    if (!form) return;
    scope.listen(form, "submit", (event) => {
      event.preventDefault();
      this.send();
    });
    scope.listen(form, "click", (event) => {
      const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-remark]");
      if (pressed instanceof HTMLElement) this.act(pressed.dataset.remark || "");
    });
    scope.listen(form, "keydown", (event) => {
      if (/** @type {KeyboardEvent} */ (event).key === "Escape") this.turn(false);
    });
  }

  /** @returns {HTMLInputElement} */
  get text() {
    return /** @type {any} */ (this.form?.elements.namedItem("text"));
  }

  /** The first and last frame: the selection, or the playhead's frame. @returns {[number, number]} */
  get frames() {
    const range = this.parts.selection.range.value;
    const frame = this.parts.transport.frame.value;
    return range ? [range.first, range.end - 1] : [frame, frame];
  }

  turn(on = Boolean(this.form?.hidden)) {
    const { form } = this;
    if (!form) return;
    form.hidden = !on;
    document.querySelector('[data-do="remark"]')?.setAttribute("aria-pressed", String(on));
    if (on) {
      this.parts.transport.pause();
      this.text.focus();
    } else {
      this.sketch.take("");
      this.sketch.clear();
    }
    this.mark();
  }

  act(/** @type {string} */ name) {
    if (name === "pen" || name === "arrow") this.sketch.take(this.sketch.kind === name ? "" : name);
    else if (name === "back") this.sketch.takeBack();
    else this.turn(false);
    this.mark();
  }

  mark() {
    const { form, sketch } = this;
    this.show();
    if (!form || form.hidden) return;
    const [first, last] = this.frames.map((frame) => this.parts.shot.number(frame));
    const where = form.querySelector('[data-part="where"]');
    if (where)
      where.textContent =
        last === first ? gettext("frame {first}", { first }) : gettext("frames {first}–{last}", { first, last });
    for (const button of /** @type {NodeListOf<HTMLButtonElement>} */ (form.querySelectorAll("[data-remark]"))) {
      if (button.dataset.remark === "back") button.disabled = !sketch.strokes.length;
      else button.setAttribute("aria-pressed", String(button.dataset.remark === sketch.kind));
    }
  }

  /** Show the drawings of open remarks on the current frame. */
  show() {
    const { shot, transport } = this.parts;
    const at = shot.rate.firstUs(transport.frame.value);
    const seen = transport.playing.value
      ? []
      : shot.looks.filter((look) => look.kind === REMARK && !look.settled && look.start <= at && at < look.end);
    this.sketch.show(seen.flatMap((look) => look.drawing || []));
  }

  async send() {
    const { shot, edits, token, said } = this.parts;
    const [frame, last] = this.frames;
    const body = JSON.stringify({ frame, last, text: this.text.value, drawing: this.sketch.strokes });
    const answer = await fetch(this.form?.action || "", {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRFToken": token },
      body,
    }).catch(() => null);
    const told = answer ? await answer.json().catch(() => ({})) : {};
    if (!answer?.ok) {
      said(told.error || gettext("The remark could not be sent. It is still here: try again."));
      return;
    }
    said("");
    this.text.value = "";
    this.turn(false);
    edits.take(/** @type {any} */ ({ revision: shot.revision, characters: {}, looks: told.looks }));
  }
}
