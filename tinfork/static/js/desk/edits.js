/** All edits on the Desk: predicted at once, sent, and corrected by the response. */
import { Signal } from "../lib/signal.js";
import { Sync } from "../lib/sync.js";
import { describe } from "./describe.js";
import { part } from "./predict.js";
import { Store } from "./store.js";

/** @typedef {import("./model.js").Character} Character */
/** @typedef {import("./model.js").Drawing} Drawing */

/** The names of fields in which two states of a shot differ. */
function differing(/** @type {Record<string, any>} */ one, /** @type {Record<string, any>} */ other) {
  return Object.keys({ ...one, ...other }).filter((name) => one[name] !== other[name]);
}

export class Edits {
  /**
   * @param {string} url where edits are sent; "" where nothing may be changed
   * @param {{document: import("./model.js").DeskDocument, shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   activeCharacter: Signal<Character>, selection: import("./selection.js").Selection, token: string,
   *   changed: (motionAlone?: boolean) => void, said: (text: string) => void, left: () => void, sounds?: () => void}} parts `left`: the shot is not
   *   read any more; `sounds`: what is heard may be another sound now
   */
  constructor(url, parts) {
    this.parts = parts;
    this.shot = parts.shot;
    this.store = new Store(parts.document);
    this.may = Boolean(url);
    this.canUndo = new Signal(parts.shot.canUndo);
    this.canRedo = new Signal(parts.shot.canRedo);
    /** The last edit; "others" after edits of somebody else arrived. */
    this.made = new Signal({ name: "", /** @type {Record<string, any>} */ parameters: {} });
    /** The number of unconfirmed edits. */
    this.waiting = new Signal(0);
    /** @type {{of: string, holds: Array<{frames: number, drawing: number, set: string}>} | null} */
    this.copied = null;
    /** Called before each edit, so that it applies to the current state. */
    this.before = () => {};
    this.sync = this.may
      ? new Sync(url, parts.token, {
          revision: () => this.shot.revision,
          changed: (document) => this.take(document, true),
          said: parts.said,
          waits: (count) => {
            const isAnswered = count < this.waiting.value;
            this.waiting.value = count;
            // A refused edit is undone on the page.
            if (isAnswered) this.draw();
          },
        })
      : null;
    this.waiting.value = this.sync?.waiting || 0;
  }

  get frame() {
    return this.parts.transport.frame.value;
  }

  get character() {
    return this.parts.activeCharacter.value;
  }

  get hold() {
    return this.shot.holdAt(this.character, this.frame);
  }

  /** The pin at the playhead, of the active character. */
  get pin() {
    return this.character.pins.find((pin) => pin.start <= this.frame && this.frame < pin.end);
  }

  /** The frames and characters of an edit: the selection, else the pin or hold at the playhead. */
  get aim() {
    const range = this.parts.selection.range.value;
    if (range) return range;
    const { start, end } = this.pin || this.hold;
    return { first: start, end, who: [this.character.id] };
  }

  /**
   * Make an edit, with its prediction drawn at once.
   * @param {ShotEdit} edit
   */
  send(...edit) {
    const [name, parameters = {}] = edit;
    if (!this.sync) return Promise.resolve();
    this.before();
    this.made.value = { name, parameters };
    // Send first, so that the request is running while the page draws.
    const sent = this.sync.send(name, parameters, describe(this.shot, name, parameters));
    this.draw();
    return sent;
  }

  /** The confirmed state with all pending edits applied. */
  draw() {
    const before = this.store.shown;
    if (!this.sync || !this.store.show(this.sync.edits)) return;
    const { shown } = this.store;
    this.shot.take(shown);
    this.parts.changed(differing(before, shown).every((name) => name === "motion"));
  }

  /** Make the same edit for each selected character. */
  forAll(/** @type {(speaker: string, aim: {first: number, last: number}) => ShotEdit} */ edit) {
    const aim = this.aim;
    for (const who of aim.who) this.send(...edit(String(who), { first: aim.first, last: aim.end - 1 }));
  }

  /** Set a drawing on the target frames. */
  write(/** @type {Drawing} */ drawing) {
    this.forAll((speaker, aim) => ["pin", { speaker, ...aim, drawing: drawing.number, set: drawing.set }]);
  }

  /** The drawing a number of places after the current one in the Tray, cyclically. */
  turnOver(/** @type {number} */ by) {
    const shown = this.shot.drawingOf(this.hold);
    const kin = this.character.drawings.filter(
      (drawing) => drawing.set === shown.set && (!drawing.hidden || drawing.id === shown.id),
    );
    const at = kin.findIndex((drawing) => drawing.id === shown.id);
    if (kin.length) this.write(kin[(Math.max(at, by > 0 ? -1 : 0) + by + kin.length) % kin.length]);
  }

  noMouth() {
    this.forAll((speaker, aim) => ["pin", { speaker, ...aim, drawing: -1, set: "" }]);
  }

  /** Pin the mouth at the playhead, or each hold of the selection. */
  pinAsIs() {
    const aim = this.aim;
    for (const who of aim.who) {
      const character = this.shot.characters.find((one) => one.id === who);
      const holds = character ? part(character.holds, aim.first, aim.end).map((h) => this.described(h)) : [];
      if (holds.length) this.send("paste", { speaker: String(who), at: aim.first, holds });
    }
  }

  /** Pin the frames with whichever drawing is best. */
  exact() {
    this.forAll((speaker, aim) => ["pin", { speaker, ...aim, drawing: null }]);
  }

  /** Remove pins, so that the frames are solved again. */
  letGo() {
    this.forAll((speaker, aim) => ["clear", { speaker, ...aim }]);
  }

  giveToBefore() {
    this.forAll((speaker, aim) => ["give_to_before", { speaker, ...aim }]);
  }

  nudge(/** @type {number} */ by) {
    const range = this.parts.selection.range.value;
    const aim = this.aim;
    if (aim.end + by <= 0 || aim.first + by >= this.shot.frames) return;
    this.forAll((speaker, { first, last }) => ["nudge", { speaker, first, last, by }]);
    if (range)
      this.parts.selection.set(Math.max(0, range.first + by), Math.min(this.shot.frames, range.end + by), range.who);
    else this.parts.transport.seek(this.frame + by);
  }

  insert() {
    const range = this.parts.selection.range.value;
    this.forAll((speaker, aim) => [
      "insert_frames",
      { speaker, at: range ? aim.first : this.frame, frames: range ? aim.last - aim.first + 1 : 1 },
    ]);
  }

  remove() {
    const range = this.parts.selection.range.value;
    this.forAll((speaker, aim) => [
      "remove_frames",
      { speaker, ...(range ? aim : { first: this.frame, last: this.frame }) },
    ]);
    this.parts.selection.clear();
  }

  split() {
    this.send("split_hold", { speaker: String(this.character.id), frame: this.frame });
  }

  /** Move one end of the hold at the playhead by frames. */
  stretch(/** @type {boolean} */ atStart, /** @type {number} */ by) {
    const { start, end } = this.pin || this.hold;
    const to = (atStart ? start : end) + by;
    if (to < 0 || to > this.shot.frames) return;
    this.send("stretch", {
      speaker: String(this.character.id),
      frame: atStart ? end - 1 : start,
      to,
      at_start: atStart,
    });
    if (atStart && this.frame < to) this.parts.transport.seek(to);
    if (!atStart && this.frame >= to) this.parts.transport.seek(to - 1);
  }

  described(/** @type {import("./model.js").Hold} */ hold) {
    const drawing = this.shot.drawings.get(hold.drawing);
    return { frames: hold.end - hold.start, drawing: drawing ? drawing.number : -1, set: drawing ? drawing.set : "" };
  }

  copy() {
    const aim = this.aim;
    const character = this.shot.characters.find((one) => one.id === aim.who[0]);
    if (!character) return;
    this.copied = {
      of: String(character.id),
      holds: part(character.holds, aim.first, aim.end).map((h) => this.described(h)),
    };
    this.parts.said("");
  }

  cut() {
    this.copy();
    this.letGo();
  }

  /**
   * Paste mouths at the start of the selection, or at the playhead; those of another character are matched by sound.
   */
  paste() {
    if (!this.copied) return;
    const range = this.parts.selection.range.value;
    const who = range ? range.who : [this.character.id];
    for (const one of who)
      this.send("paste", {
        speaker: String(one),
        at: range ? range.first : this.frame,
        of: this.copied.of,
        holds: this.copied.holds,
      });
  }

  /** Set the drawing of a Tray key, from the set shown here. */
  press(/** @type {string} */ key) {
    const drawing = this.byKey(key);
    if (drawing && this.may) this.write(drawing);
    return Boolean(drawing && this.may);
  }

  /** The drawing of a Tray key, from the set shown at the playhead. */
  byKey(/** @type {string} */ key) {
    const shown = this.shot.drawingOf(this.hold).set;
    const kin = this.character.drawings.filter((drawing) => drawing.key === key);
    return kin.find((one) => one.set === shown) || kin[0];
  }

  undo() {
    // Undo also applies to edits that are not confirmed yet.
    if (this.canUndo.value || this.waiting.value) this.step("undo");
  }

  redo() {
    if (this.canRedo.value || this.waiting.value) this.step("redo");
  }

  step(/** @type {"undo" | "redo"} */ name) {
    this.made.value = { name, parameters: {} };
    this.sync?.send(name);
  }

  /** Request changes that this page made by other means than edits. */
  async look(/** @type {string} */ url) {
    if (this.waiting.value) return;
    const seen = this.shot.revision;
    const told = await fetch(`${url}?since=${seen}`)
      .then((answer) => (answer.ok ? answer.json() : null))
      .catch(() => null);
    // The response to an edit made meanwhile contains the changes.
    if (told?.document && !this.waiting.value && this.shot.revision === seen) this.take(told.document);
  }

  /** Take over the state from the server. */
  take(/** @type {import("./model.js").Changes | {isRead: false}} */ document, isAnswer = false) {
    const { shot } = this;
    if ("isRead" in document) {
      this.parts.left();
      return;
    }
    // The response is to the first pending edit.
    if (!this.store.confirm(document)) {
      // It is based on a state that this page does not have.
      this.parts.left();
      return;
    }
    if (!isAnswer) this.made.value = { name: "others", parameters: {} };
    this.store.show((this.sync?.edits || []).slice(isAnswer ? 1 : 0));
    shot.take(this.store.shown);
    this.canUndo.value = shot.canUndo;
    this.canRedo.value = shot.canRedo;
    this.parts.changed();
    // After several edits in a row, load the sound only once.
    if ((this.sync?.edits.length || 0) < 2) this.parts.sounds?.();
  }
}
