/** The Sheet as a list for screen readers and the keyboard: the holds around the playhead, one per line. */
import { gettext } from "../lib/gettext.js";

/** The number of holds before and after the one at the playhead. */
const AROUND = 12;

export class Mirror {
  /**
   * @param {HTMLElement} list
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(list, parts, scope) {
    this.list = list;
    this.parts = parts;
    this.shown = "";
    scope.listen(list, "keydown", (/** @type {KeyboardEvent} */ event) => this.key(event));
    scope.listen(list, "click", (event) => {
      const row = /** @type {HTMLElement} */ (event.target).closest("li");
      if (row instanceof HTMLElement) parts.transport.seek(Number(row.dataset.frame));
    });
    scope.listen(list, "focus", () => this.show());
    scope.add(parts.transport.frame.follow(() => this.show()));
    scope.add(parts.activeCharacter.follow(() => this.show()));
  }

  /** Update after the holds changed. */
  refresh() {
    this.shown = "";
    this.show();
  }

  show() {
    // Update only if it has the focus, and not during playback.
    const { shot, transport, activeCharacter } = this.parts;
    if (transport.playing.value || (document.activeElement !== this.list && this.list.childElementCount)) return;
    const character = activeCharacter.value;
    const at = shot.holdIndex(character, transport.frame.value);
    const key = `${character.id} ${at}`;
    if (key === this.shown) return;
    this.shown = key;
    const first = Math.max(0, at - AROUND);
    const rows = character.holds.slice(first, at + AROUND + 1).map((hold, n) => {
      const row = document.createElement("li");
      row.setAttribute("role", "option");
      row.id = `hold-${hold.start}`;
      row.dataset.frame = String(hold.start);
      row.setAttribute("aria-selected", String(first + n === at));
      row.textContent = this.words(character, hold);
      return row;
    });
    this.list.replaceChildren(...rows);
    this.list.setAttribute("aria-activedescendant", `hold-${character.holds[at]?.start ?? 0}`);
    // Focusing it must not scroll the page.
    if (this.list.matches(":focus"))
      this.list.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: "nearest" });
  }

  words(/** @type {import("./model.js").Character} */ character, /** @type {import("./model.js").Hold} */ hold) {
    const { shot } = this.parts;
    const from = shot.number(hold.start);
    const to = shot.number(hold.end - 1);
    const drawing = shot.drawingOf(hold);
    const said = shot
      .between(shot.words, shot.rate.firstUs(hold.start), shot.rate.firstUs(hold.end))
      .map((word) => word.text);
    const pinned = character.pins.some((pin) => pin.start < hold.end && pin.end > hold.start)
      ? `, ${gettext("pinned")}`
      : "";
    const note = shot.notes.find((one) => one.frame >= hold.start && one.frame < hold.end);
    return `${from === to ? from : `${from}–${to}`}: ${shot.label(hold)} ${drawing.name}${pinned}${said.length ? `, ${said.join(" ")}` : ""}${note ? `, ${gettext("note: {text}", { text: note.text })}` : ""}`;
  }

  key(/** @type {KeyboardEvent} */ event) {
    const { shot, transport, activeCharacter } = this.parts;
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (!step || event.shiftKey || event.altKey || event.ctrlKey) return;
    const next = activeCharacter.value.holds[shot.holdIndex(activeCharacter.value, transport.frame.value) + step];
    if (next) transport.step(next.start - transport.frame.value);
    event.preventDefault();
    event.stopPropagation();
  }
}
