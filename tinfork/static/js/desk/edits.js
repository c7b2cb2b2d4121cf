/** Every edit of mouths, words and notes on the Desk: drawn at once, sent, and put right by the answer. */
import { Signal } from "../lib/signal.js";
import { Sync } from "../lib/sync.js";
import { describe } from "./describe.js";
import { part, predicted } from "./predict.js";
import { predictedWords } from "./predictwords.js";

/** @typedef {import("./model.js").Character} Character */
/** @typedef {import("./model.js").Drawing} Drawing */

/**
 * Draw what an edit will look like, as far as it can be told; whether anything was.
 * @param {import("./model.js").Shot} shot
 * @param {string} name
 * @param {Record<string, any>} parameters
 */
function draw(shot, name, parameters) {
  const character = shot.characters.find((one) => String(one.id) === parameters.speaker);
  const guess = character && predicted(character, name, parameters);
  const said = predictedWords(shot, name, parameters);
  if (character && guess) Object.assign(character, guess);
  else if (said) Object.assign(shot, said);
  else if (name === "note") {
    shot.notes = shot.notes.filter((note) => note.frame !== parameters.frame);
    if (parameters.text) shot.notes.push({ frame: parameters.frame, text: String(parameters.text) });
  } else if (name === "settle") shot.looks = shot.looks.map((look) => (look.key === parameters.key ? { ...look, settled: true } : look));
  else if (name === "stand" && !parameters.usual) {
    const { speaker, ...stand } = parameters;
    shot.layout.stands[speaker] = /** @type {import("../lib/lay.js").Stand} */ (stand);
  } else if (name === "ground") shot.layout = { ...shot.layout, ground: parameters.colour, ...(parameters.clear ? { background: "" } : {}) };
  else if (name === "gain") shot.clips = shot.clips.map((clip) => (clip.id === parameters.clip ? { ...clip, gain: parameters.db } : clip));
  else return false;
  return true;
}

export class Edits {
  /**
   * @param {string} url where edits are sent; "" where nothing may be changed
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   hand: Signal<Character>, selection: import("./selection.js").Selection, token: string,
   *   changed: () => void, said: (text: string) => void, left: () => void, sounds?: () => void}} parts `left`: the shot is not
   *   read any more; `sounds`: what is heard may be another sound now
   */
  constructor(url, parts) {
    this.parts = parts;
    this.shot = parts.shot;
    this.may = Boolean(url);
    this.canUndo = new Signal(parts.shot.canUndo);
    this.canRedo = new Signal(parts.shot.canRedo);
    /** How many edits are on their way. */
    this.waiting = new Signal(0);
    /** @type {{of: string, holds: Array<{frames: number, drawing: number, set: string}>} | null} */
    this.copied = null;
    /** What is done before an edit: what is edited is what is now. */
    this.before = () => {};
    this.sync = this.may
      ? new Sync(url, parts.token, {
          revision: () => this.shot.revision,
          changed: (document) => this.take(document),
          said: parts.said,
          waits: (count) => (this.waiting.value = count),
        })
      : null;
    this.waiting.value = this.sync?.waiting || 0;
  }

  get frame() {
    return this.parts.transport.frame.value;
  }

  get inHand() {
    return this.parts.hand.value;
  }

  get hold() {
    return this.shot.holdAt(this.inHand, this.frame);
  }

  /** The pin at the playhead, of the character in hand. */
  get pin() {
    return this.inHand.pins.find((pin) => pin.start <= this.frame && this.frame < pin.end);
  }

  /** The frames and people an edit is about: what is selected, else the pin or the hold at the playhead. */
  get aim() {
    const range = this.parts.selection.range.value;
    if (range) return range;
    const { start, end } = this.pin || this.hold;
    return { first: start, end, who: [this.inHand.id] };
  }

  /**
   * One edit: what it will look like is drawn at once.
   * @param {string} name
   * @param {Record<string, any>} [parameters]
   */
  send(name, parameters = {}) {
    if (!this.sync) return Promise.resolve();
    this.before();
    // On its way first: it travels while the page draws.
    const sent = this.sync.send(name, parameters, describe(this.shot, name, parameters));
    if (draw(this.shot, name, parameters)) this.parts.changed();
    return sent;
  }

  /** The same edit for everyone it is about. */
  forAll(/** @type {string} */ name, /** @type {(aim: {first: number, end: number}) => Record<string, any>} */ parameters) {
    const aim = this.aim;
    for (const who of aim.who) this.send(name, { speaker: String(who), ...parameters(aim) });
  }

  /** A drawing over what is aimed at. */
  write(/** @type {Drawing} */ drawing) {
    this.forAll("pin", (aim) => ({ first: aim.first, last: aim.end - 1, drawing: drawing.number, set: drawing.set }));
  }

  noMouth() {
    this.forAll("pin", (aim) => ({ first: aim.first, last: aim.end - 1, drawing: -1, set: "" }));
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
    this.forAll("pin", (aim) => ({ first: aim.first, last: aim.end - 1, drawing: null }));
  }

  /** What was fixed is solved again. */
  letGo() {
    this.forAll("clear", (aim) => ({ first: aim.first, last: aim.end - 1 }));
  }

  giveToBefore() {
    this.forAll("give_to_before", (aim) => ({ first: aim.first, last: aim.end - 1 }));
  }

  nudge(/** @type {number} */ by) {
    const range = this.parts.selection.range.value;
    const aim = this.aim;
    if (aim.end + by <= 0 || aim.first + by >= this.shot.frames) return;
    this.forAll("nudge", () => ({ first: aim.first, last: aim.end - 1, by }));
    if (range) this.parts.selection.set(Math.max(0, range.first + by), Math.min(this.shot.frames, range.end + by), range.who);
    else this.parts.transport.seek(this.frame + by);
  }

  insert() {
    const range = this.parts.selection.range.value;
    this.forAll("insert_frames", (aim) => ({ at: range ? aim.first : this.frame, frames: range ? aim.end - aim.first : 1 }));
  }

  remove() {
    const range = this.parts.selection.range.value;
    this.forAll("remove_frames", (aim) => (range ? { first: aim.first, last: aim.end - 1 } : { first: this.frame, last: this.frame }));
    this.parts.selection.clear();
  }

  split() {
    this.send("split_hold", { speaker: String(this.inHand.id), frame: this.frame });
  }

  /** One end of the hold at the playhead by frames. */
  stretch(/** @type {boolean} */ atStart, /** @type {number} */ by) {
    const { start, end } = this.pin || this.hold;
    const to = (atStart ? start : end) + by;
    if (to < 0 || to > this.shot.frames) return;
    this.send("stretch", { speaker: String(this.inHand.id), frame: atStart ? end - 1 : start, to, at_start: atStart });
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
    this.copied = { of: String(character.id), holds: part(character.holds, aim.first, aim.end).map((h) => this.described(h)) };
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
    const who = range ? range.who : [this.inHand.id];
    for (const one of who) this.send("paste", { speaker: String(one), at: range ? range.first : this.frame, of: this.copied.of, holds: this.copied.holds });
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
    const kin = this.inHand.drawings.filter((drawing) => drawing.key === key);
    return kin.find((one) => one.set === shown) || kin[0];
  }

  undo() {
    // While edits are on their way it is them that are undone.
    if (this.canUndo.value || this.waiting.value) this.sync?.send("undo");
  }

  redo() {
    if (this.canRedo.value || this.waiting.value) this.sync?.send("redo");
  }

  /** Ask what others have changed meanwhile. */
  async look(/** @type {string} */ url) {
    if (this.waiting.value) return;
    const seen = this.shot.revision;
    const told = await fetch(`${url}?since=${seen}`).then((answer) => (answer.ok ? answer.json() : null)).catch(() => null);
    // An edit of one's own that was made in between brings what there is with its answer.
    if (told?.document && !this.waiting.value && this.shot.revision === seen) this.take(told.document);
  }

  /** What the server says it is now. */
  take(/** @type {import("./model.js").Changes | {isRead: false}} */ document) {
    const { shot } = this;
    if ("isRead" in document) {
      this.parts.left();
      return;
    }
    shot.take(document);
    // Edits that are still on their way are drawn over it again.
    for (const edit of (this.sync?.edits || []).slice(1)) {
      draw(shot, edit.name, edit.parameters);
    }
    this.canUndo.value = shot.canUndo;
    this.canRedo.value = shot.canRedo;
    this.parts.changed();
    // Of several edits in a row the sound of the last is fetched.
    if ((this.sync?.edits.length || 0) < 2) this.parts.sounds?.();
  }
}
