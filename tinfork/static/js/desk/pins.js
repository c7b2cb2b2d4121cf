/** Mouths fixed by hand: the hold at the playhead, as it is, as another drawing, or without a mouth. */
import { Sync } from "../lib/sync.js";

/** @typedef {import("./model.js").Character} Character */

export class Pins {
  /**
   * @param {HTMLElement} tools
   * @param {{shot: import("./model.js").Shot, transport: import("./transport.js").Transport,
   *   hand: import("../lib/signal.js").Signal<Character>, token: string,
   *   changed: () => void, trouble: (text: string) => void}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(tools, parts, scope) {
    this.tools = tools;
    this.parts = parts;
    this.button = (/** @type {string} */ name) => /** @type {HTMLButtonElement} */ (tools.querySelector(`[data-pin="${name}"]`));
    this.sync = new Sync(tools.dataset.edit || "", parts.token, {
      revision: () => parts.shot.revision,
      changed: (document) => this.take(document),
      said: parts.trouble,
    });
    scope.listen(tools, "click", (event) => {
      const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-pin]");
      if (pressed instanceof HTMLElement) this.do(pressed.dataset.pin || "");
    });
    scope.add(parts.transport.frame.follow(() => this.mark()));
    scope.add(parts.hand.follow(() => this.mark()));
  }

  get hold() {
    return this.parts.shot.holdAt(this.parts.hand.value, this.parts.transport.frame.value);
  }

  /** The pin at the playhead, of the character in hand. */
  get pin() {
    const frame = this.parts.transport.frame.value;
    return this.parts.hand.value.pins.find((pin) => pin.start <= frame && frame < pin.end);
  }

  mark() {
    this.button("unpin").disabled = !this.pin;
  }

  /** @param {string} what */
  do(what) {
    const drawing = this.parts.shot.drawings.get(this.hold.drawing);
    if (what === "pin" && drawing) this.set(drawing);
    else if (what === "pin" || what === "none") this.put(-1, "");
    else if (what === "unpin" && this.pin) this.sync.send("unpin", { pin: this.pin.key });
    else if (what === "undo" || what === "redo") this.sync.send(what);
  }

  /** A drawing on the hold at the playhead. */
  set(/** @type {import("./model.js").Drawing} */ drawing) {
    this.put(drawing.number, drawing.set);
  }

  /** A Tray key: its drawing, of the set that is shown here, on the hold. */
  press(/** @type {string} */ key) {
    const shown = this.parts.shot.drawingOf(this.hold).set;
    const kin = this.parts.hand.value.drawings.filter((drawing) => drawing.key === key);
    const drawing = kin.find((one) => one.set === shown) || kin[0];
    if (drawing) this.set(drawing);
    return Boolean(drawing);
  }

  /**
   * @param {number} drawing its number; -1 is no mouth
   * @param {string} set
   */
  put(drawing, set) {
    const { start, end } = this.pin || this.hold;
    this.sync.send("pin", { speaker: String(this.parts.hand.value.id), first: start, last: end - 1, drawing, set });
  }

  /** @param {{revision: number, canUndo: boolean, canRedo: boolean, looks: any[],
   *   characters: Record<string, any>}} document */
  take(document) {
    this.parts.shot.revision = document.revision;
    this.parts.shot.looks = document.looks;
    for (const character of this.parts.shot.characters) Object.assign(character, document.characters[String(character.id)]);
    this.button("undo").disabled = !document.canUndo;
    this.button("redo").disabled = !document.canRedo;
    this.parts.changed();
    this.mark();
  }
}
