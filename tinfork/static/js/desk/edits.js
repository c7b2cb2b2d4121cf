/** Every edit of mouths, words and notes on the Desk: drawn at once, sent, and put right by the answer. */
import { Signal } from "../lib/signal.js";
import { Sync } from "../lib/sync.js";
import { describe } from "./describe.js";
import { part } from "./predict.js";
import { Store } from "./store.js";

/** @typedef {import("./model.js").Character} Character */
/** @typedef {import("./model.js").Drawing} Drawing */

/** The names under which two states of a shot have something else. */
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
    /** The edit that was made last; "others" where somebody else's have come. */
    this.made = new Signal({ name: "", /** @type {Record<string, any>} */ parameters: {} });
    /** How many edits are on their way. */
    this.waiting = new Signal(0);
    /** @type {{of: string, holds: Array<{frames: number, drawing: number, set: string}>} | null} */
    this.copied = null;
    /** What is done before an edit: what is edited is what is now. */
    this.before = () => {};
    this.sync = this.may
      ? new Sync(url, parts.token, {
          revision: () => this.shot.revision,
          changed: (document) => this.take(document, true),
          said: parts.said,
          waits: (count) => {
            const isAnswered = count < this.waiting.value;
            this.waiting.value = count;
            // One that was refused is not there any more.
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

  /** The frames and people an edit is about: what is selected, else the pin or the hold at the playhead. */
  get aim() {
    const range = this.parts.selection.range.value;
    if (range) return range;
    const { start, end } = this.pin || this.hold;
    return { first: start, end, who: [this.character.id] };
  }

  /**
   * One edit: what it will look like is drawn at once.
   * @param {ShotEdit} edit
   */
  send(...edit) {
    const [name, parameters = {}] = edit;
    if (!this.sync) return Promise.resolve();
    this.before();
    this.made.value = { name, parameters };
    // On its way first: it travels while the page draws.
    const sent = this.sync.send(name, parameters, describe(this.shot, name, parameters));
    this.draw();
    return sent;
  }

  /** What is confirmed, with all that waits done to it. */
  draw() {
    const before = this.store.shown;
    if (!this.sync || !this.store.show(this.sync.edits)) return;
    const { shown } = this.store;
    this.shot.take(shown);
    this.parts.changed(differing(before, shown).every((name) => name === "motion"));
  }

  /** The same edit for everyone it is about. */
  forAll(/** @type {(speaker: string, aim: {first: number, last: number}) => ShotEdit} */ edit) {
    const aim = this.aim;
    for (const who of aim.who) this.send(...edit(String(who), { first: aim.first, last: aim.end - 1 }));
  }

  /** A drawing over what is aimed at. */
  write(/** @type {Drawing} */ drawing) {
    this.forAll((speaker, aim) => ["pin", { speaker, ...aim, drawing: drawing.number, set: drawing.set }]);
  }

  /** The drawing that comes so many after the one in sight, in the order of the Tray, round and round. */
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

  /** The mouth at the playhead pinned as it is; a selection hold by hold. */
  pinAsIs() {
    const aim = this.aim;
    for (const who of aim.who) {
      const character = this.shot.characters.find((one) => one.id === who);
      const holds = character ? part(character.holds, aim.first, aim.end).map((h) => this.described(h)) : [];
      if (holds.length) this.send("paste", { speaker: String(who), at: aim.first, holds });
    }
  }

  /** The frames fixed, whichever drawing is best on them. */
  exact() {
    this.forAll((speaker, aim) => ["pin", { speaker, ...aim, drawing: null }]);
  }

  /** What was fixed is solved again. */
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

  /** One end of the hold at the playhead by frames. */
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

  /** Copied mouths from the start of the selection, or from the playhead; another character's are matched by sound. */
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

  /** A Tray key: its drawing, of the set that is shown here. */
  press(/** @type {string} */ key) {
    const drawing = this.byKey(key);
    if (drawing && this.may) this.write(drawing);
    return Boolean(drawing && this.may);
  }

  /** The drawing of a Tray key, of the set that is shown at the playhead. */
  byKey(/** @type {string} */ key) {
    const shown = this.shot.drawingOf(this.hold).set;
    const kin = this.character.drawings.filter((drawing) => drawing.key === key);
    return kin.find((one) => one.set === shown) || kin[0];
  }

  undo() {
    // While edits are on their way it is them that are undone.
    if (this.canUndo.value || this.waiting.value) this.step("undo");
  }

  redo() {
    if (this.canRedo.value || this.waiting.value) this.step("redo");
  }

  step(/** @type {"undo" | "redo"} */ name) {
    this.made.value = { name, parameters: {} };
    this.sync?.send(name);
  }

  /** Ask what has changed meanwhile, by this page in another way than an edit. */
  async look(/** @type {string} */ url) {
    if (this.waiting.value) return;
    const seen = this.shot.revision;
    const told = await fetch(`${url}?since=${seen}`)
      .then((answer) => (answer.ok ? answer.json() : null))
      .catch(() => null);
    // An edit of one's own that was made in between brings what there is with its answer.
    if (told?.document && !this.waiting.value && this.shot.revision === seen) this.take(told.document);
  }

  /** What the server says it is now. */
  take(/** @type {import("./model.js").Changes | {isRead: false}} */ document, isAnswer = false) {
    const { shot } = this;
    if ("isRead" in document) {
      this.parts.left();
      return;
    }
    // The first of the edits that wait is the one that was answered.
    if (!this.store.confirm(document)) {
      // It is about what this page never had.
      this.parts.left();
      return;
    }
    if (!isAnswer) this.made.value = { name: "others", parameters: {} };
    this.store.show((this.sync?.edits || []).slice(isAnswer ? 1 : 0));
    shot.take(this.store.shown);
    this.canUndo.value = shot.canUndo;
    this.canRedo.value = shot.canRedo;
    this.parts.changed();
    // Of several edits in a row the sound of the last is fetched.
    if ((this.sync?.edits.length || 0) < 2) this.parts.sounds?.();
  }
}
