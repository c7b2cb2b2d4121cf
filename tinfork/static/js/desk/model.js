/**
 * The shot on the page: what is heard and shown when. Read only: the server decides.
 *
 * @typedef {{start: number, end: number, drawing: number, viseme: string, set?: string}} Hold `set`: whose face it is where there
 *   is no mouth
 * @typedef {{key: number, start: number, end: number, exact: boolean}} Pin frames `[start, end)` fixed by hand
 * @typedef {{text: string, edit: string, parameters: Record<string, any>, goes: string}} Correction a likely correction: an edit, or a place
 * @typedef {{key: string, kind: string, start: number, end: number, text: string, severity: number, corrections: Correction[], who: number, settled: boolean,
 *   drawing?: import("../lib/sketch.js").Stroke[]}} Look
 * @typedef {{id: number, clip: number, text: string, start: number, end: number, sure: number, line: number, pinned: boolean, speaker: number,
 *   sounds?: Array<Omit<Phoneme, "word">>}} Word `id`, `line`: lasting numbers, `clip`: the one it is heard in; `sounds`: as it was told
 * @typedef {{id: number, ipa: string, viseme: string, start: number, end: number, sure: number, word: number}} Phoneme `id`: its
 *   lasting number in its word, `word`: the place of that among the words
 * @typedef {{id: number, take: number, start: number, end: number, gain: number}} Clip a part of a take as it sounds; `gain` in dB
 * @typedef {{id: number, number: number, name: string, key: string, set: string, sounds: string[], hidden: boolean, url: string,
 *   thumb: string, picture: string, wide: number, tracings: string[]} & import("../lib/lay.js").Registered} Drawing `wide`: heights of the face; `tracings`: seen in turn with it; a hold's `drawing` is its `id`; people see its `number`
 * @typedef {{id: number, of: number | null, kind?: string, name: string, ink: number, face: string,
 *   place: import("../lib/lay.js").Place, tracings: string[], faces: Record<string, {face: string, tracings: string[], place: import("../lib/lay.js").Place | null}>, drawings: Drawing[], holds: Hold[], pins: Pin[], dials?: Record<string, number | boolean>,
 *   numbers: {changes: number, shortest: number, on: number[], used: number, pieces: number,
 *     uses: Record<string, {holds: number, frames: number, pieces: number}>}}} Character `faces`: those that sets of mouths bring with
 *   them, by set, with where this column is on each, null where it is not seen;
 *   `of` is whose face it is on, where it is
 *   not a mouth but another part: a column that is set by hand alone, without dials
 */
/**
 * @typedef {{url: string, peaks: string[], peaksPerSecond: number, peaksFactor: number}} Sound the mix, and its waveform
 * @typedef {{speaker: number, start: number, end: number, clip: number}} Turn
 * @typedef {{url: string, name: string, fromUs: number, durationUs: number}} Reel
 * @typedef {{words: Word[], phonemes: Phoneme[], turns: Turn[], clips: Clip[], sound: Sound}} Heard
 * @typedef {{stands: Record<string, import("../lib/lay.js").Stand>, ground: string, background: string,
 *   boil: import("./boiling.js").Boil}} Layout by a character's `id`
 * @typedef {Record<string, Record<string, import("../lib/pose.js").Key[]>>} Motion keys by a character's `id`, and by what moves: "head"
 *   (all of it), "face" (what is on the head picture), "mouth", or the `id` of another part's column
 * @typedef {{revision: number, canUndo: boolean, canRedo: boolean, looks: Look[], layout: Layout, motion: Motion, notes: Array<{id: number, frame: number, text: string}>,
 *   passNotes: Record<string, Record<string, string>>}} State
 * @typedef {State & Heard & {shot: {name: string, firstFrame: number, rate: [number, number], frames: number, durationUs: number,
 *   width: number, height: number}, doubtful: number, characters: Character[], smallPictures: string[], reel: Reel | null}} DeskDocument all of it
 * @typedef {{at: number, gone: number, put: any[]}} Splice
 * @typedef {{since?: number, revision: number, canUndo: boolean, canRedo: boolean, layout: Layout, sound?: Sound,
 *   characters: Record<string, Record<string, any>>} & Record<string, any>} Changes what an edit changed; long lists may
 *   come as a `Splice` of those of revision `since`
 */
import { FrameRate } from "../lib/clock.js";
import { gettext } from "../lib/gettext.js";
import { lastStarted, longestOf } from "../lib/intervals.js";

/** The drawing of a hold without a mouth. */
const NO_MOUTH = /** @type {Drawing} */ (
  /** @type {unknown} */ ({
    id: 0,
    number: "–",
    name: gettext("no mouth"),
    key: "",
    set: "",
    sounds: [],
    hidden: false,
    url: "",
    picture: "",
    thumb: "",
  })
);

export class Shot {
  constructor(/** @type {DeskDocument} */ document) {
    this.name = document.shot.name;
    this.revision = document.revision;
    this.firstFrame = document.shot.firstFrame;
    this.frames = document.shot.frames;
    this.durationUs = document.shot.durationUs;
    this.aspect = document.shot.width / document.shot.height;
    this.rate = new FrameRate(document.shot.rate[0], document.shot.rate[1]);
    this.words = document.words;
    this.phonemes = document.phonemes;
    // Character objects keep their identity; changes are written into them.
    const all = document.characters.map((character) => ({ ...character }));
    const isExchanged = (/** @type {Character} */ one) => !one.of || one.drawings.length > 1;
    /** Mouths, and other parts with more than one drawing. */
    this.characters = all.filter(isExchanged);
    /** Parts with a single drawing, which only move. */
    this.fixed = all.filter((one) => !isExchanged(one));
    /** @type {Map<number, Drawing>} */
    this.drawings = new Map(all.flatMap((character) => character.drawings.map((drawing) => [drawing.id, drawing])));
    this.sound = document.sound;
    this.turns = document.turns;
    /** Sorted by start. */
    this.clips = document.clips;
    this.reel = document.reel;
    this.doubtful = document.doubtful;
    /** The worst first. */
    this.looks = document.looks;
    this.notes = document.notes;
    /** The places of characters in the picture, and the background. */
    this.layout = structuredClone(document.layout);
    this.motion = document.motion;
    /** Notes about passes, by character and part. */
    this.passNotes = document.passNotes;
    this.canUndo = Boolean(document.canUndo);
    this.canRedo = Boolean(document.canRedo);
  }

  /** Show another state. */
  take(/** @type {Partial<DeskDocument>} */ { characters, ...shown }) {
    // Drags modify a copy.
    Object.assign(this, shown, shown.layout && { layout: structuredClone(shown.layout) });
    const now = new Map((characters || []).map((one) => [one.id, one]));
    for (const character of [...this.characters, ...this.fixed]) Object.assign(character, now.get(character.id));
  }

  /** The keys of a column of motion. */
  keysOf(/** @type {number} */ character, /** @type {string} */ part) {
    return this.motion[String(character)]?.[part] || [];
  }

  /** The note of a frame. */
  noteOn(/** @type {number} */ frame) {
    return this.notes.find((note) => note.frame === frame);
  }

  /** The word on a frame, preferably of a character; in silence the nearest one before it. */
  wordOn(/** @type {number} */ frame, /** @type {number} */ speaker) {
    const { words } = this.heardOn(frame);
    return words.find((word) => word.speaker === speaker) || words[0];
  }

  /**
   * The frames of the unit (word, line, turn) around a frame; null if there is none.
   * @param {"hold" | "word" | "line" | "turn" | "second"} what
   * @param {number} frame
   * @param {number} speaker
   * @returns {{start: number, end: number} | null}
   */
  framesAround(what, frame, speaker) {
    const { rate } = this;
    if (what === "second") {
      const second = Math.round(rate.nominal);
      const start = Math.floor(frame / second) * second;
      return { start, end: Math.min(this.frames, start + second) };
    }
    const word = this.wordOn(frame, speaker);
    const turns = this.between(this.turns, rate.firstUs(frame), rate.firstUs(frame + 1));
    const line = word ? this.words.filter((one) => one.line === word.line) : [];
    const heard = {
      hold: [],
      word: word ? [word] : [],
      line,
      turn: turns.filter((one) => one.speaker === speaker).slice(0, 1),
    }[what];
    if (!heard.length) return null;
    const [from, to] = [Math.min(...heard.map((one) => one.start)), Math.max(...heard.map((one) => one.end))];
    return { start: rate.frameAt(from), end: rate.frameAt(to - 1) + 1 };
  }

  /**
   * The clip on a frame: of several, the one with a turn of this speaker, else the one that starts last.
   */
  clipOn(/** @type {number} */ frame, /** @type {number} */ speaker) {
    const [from, to] = [this.rate.firstUs(frame), this.rate.firstUs(frame + 1)];
    const heard = this.between(this.clips, from, to);
    const turn = this.between(this.turns, from, to).find((one) => one.speaker === speaker);
    return heard.find((clip) => clip.id === turn?.clip) || heard.at(-1);
  }

  /** Open second looks, the worst first. */
  get secondLooks() {
    return this.looks.filter((look) => !look.settled);
  }

  /** The character of a word; the first one for words without a speaker. */
  speakerOf(/** @type {{speaker: number}} */ item) {
    return this.characters.find((character) => character.id === item.speaker) || this.characters[0];
  }

  /** The displayed number of a frame. */
  number(/** @type {number} */ frame) {
    return this.firstFrame + frame;
  }

  /** The drawing of a hold. */
  drawingOf(/** @type {Hold} */ hold) {
    return this.drawings.get(hold.drawing) || NO_MOUTH;
  }

  /** The set whose face a hold shows. */
  setOf(/** @type {Hold} */ hold) {
    return hold.drawing ? this.drawingOf(hold).set : hold.set || "";
  }

  /** The label of a hold on sheets: the drawing's number, and the first letter of a set other than the first. */
  label(/** @type {Hold} */ hold) {
    const { number, set } = this.drawingOf(hold);
    return set ? `${number}·${[...set][0]}` : String(number);
  }

  clampFrame(/** @type {number} */ frame) {
    return Math.max(0, Math.min(this.frames - 1, frame));
  }

  /** Index of the hold that covers a frame. */
  holdIndex(/** @type {Character} */ character, /** @type {number} */ frame) {
    return Math.max(0, lastStarted(character.holds, frame));
  }

  holdAt(/** @type {Character} */ character, /** @type {number} */ frame) {
    return character.holds[this.holdIndex(character, frame)];
  }

  /**
   * Items that overlap a span of time; items may also overlap each other.
   * @template {{start: number, end: number}} T
   * @param {T[]} items
   * @param {number} fromUs
   * @param {number} toUs
   * @returns {T[]}
   */
  between(items, fromUs, toUs) {
    const out = [];
    for (
      let at = Math.max(0, lastStarted(items, fromUs - longestOf(items)));
      at < items.length && items[at].start < toUs;
      at += 1
    ) {
      if (items[at].end > fromUs) out.push(items[at]);
    }
    return out;
  }

  /** The phoneme on a frame. */
  heardOn(/** @type {number} */ frame) {
    const fromUs = this.rate.firstUs(frame);
    const toUs = this.rate.firstUs(frame + 1);
    return { words: this.between(this.words, fromUs, toUs), phonemes: this.between(this.phonemes, fromUs, toUs) };
  }
}
