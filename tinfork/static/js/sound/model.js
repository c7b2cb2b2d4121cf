/**
 * A shot's sound on the page: the last document from the server. Times are microseconds of the shot, frames count from
 * 0.
 *
 * @typedef {{id: number, name: string, kind: string, muted: boolean}} Track
 * @typedef {{id: number, track: number, take: number, take_length: number, start: number, in: number, length: number,
 *   voice: number | null, fade_in: number, fade_out: number, gain: number, slip: number}} Clip
 * @typedef {{id: number, clip: number, speaker: number, start: number, end: number}} Turn `id`: a lasting number
 * @typedef {{id: number, name: string, ink: number}} Character
 * @typedef {{text: string, start: number, end: number, speaker: number}} Word
 * @typedef {{kind: "clip", id: number} | {kind: "turn", clip: number, turn: number} | null} Selection
 */
/**
 * @typedef {{revision: number, shot: {name: string, firstFrame: number, rate: [number, number], frames: number, durationUs: number,
 *   lengthUs: number}, canUndo: boolean, canRedo: boolean, tracks: Track[], clips: Clip[], turns: Turn[], words: Word[],
 *   characters: Character[], takes: Record<string, {name: string, durationUs: number, peaks: string[], peaksPerSecond: number,
 *   peaksFactor: number}>, sound: {url: string}, reel: import("../desk/model.js").Reel | null}} SoundDocument
 */
import { FrameRate } from "../lib/clock.js";
import { gettext } from "../lib/gettext.js";

export class SoundShot {
  constructor(/** @type {SoundDocument} */ document) {
    this.revision = 0;
    this.firstFrame = 1;
    this.durationUs = 0;
    this.lengthUs = 0;
    this.frames = 1;
    this.rate = new FrameRate(24, 1);
    this.canUndo = false;
    this.canRedo = false;
    /** @type {Track[]} */
    this.tracks = [];
    /** @type {Clip[]} */
    this.clips = [];
    /** @type {Turn[]} */
    this.turns = [];
    /** @type {Word[]} */
    this.words = [];
    /** @type {Character[]} */
    this.characters = [];
    /**
     * @type {Record<string, {name: string, durationUs: number, peaks: string[], peaksPerSecond: number, peaksFactor:
     * number}>}
     */
    this.takes = {};
    this.sound = { url: "" };
    /** @type {import("../desk/model.js").Reel | null} */
    this.reel = null;
    this.take(document);
  }

  /** Take over the document from the server. */
  take(/** @type {SoundDocument} */ document) {
    const { shot, revision, canUndo, canRedo, tracks, clips, turns, words, characters, takes, sound, reel } = document;
    Object.assign(this, { revision, canUndo, canRedo, tracks, clips, turns, words, characters, takes, sound, reel });
    this.firstFrame = shot.firstFrame;
    this.durationUs = shot.durationUs;
    this.lengthUs = shot.lengthUs;
    this.frames = Math.max(1, shot.frames);
    this.rate = new FrameRate(shot.rate[0], shot.rate[1]);
  }

  /** The displayed number of a frame. */
  number(/** @type {number} */ frame) {
    return this.firstFrame + frame;
  }

  clampFrame(/** @type {number} */ frame) {
    return Math.max(0, Math.min(this.frames - 1, frame));
  }

  /** The frame whose start is nearest to a time. */
  nearestFrame(/** @type {number} */ timeUs) {
    return Math.max(0, Math.round(this.rate.position(Math.max(0, timeUs))));
  }

  clip(/** @type {number} */ id) {
    return this.clips.find((clip) => clip.id === id);
  }

  turn(/** @type {number} */ clip, /** @type {number} */ id) {
    return this.turns.find((one) => one.clip === clip && one.id === id);
  }

  character(/** @type {number} */ id) {
    return this.characters.find((character) => character.id === id);
  }

  /** The turns of a character, in time order. */
  turnsOf(/** @type {Character} */ character) {
    return this.turns.filter((turn) => turn.speaker === character.id);
  }

  /** Describe what an edit is about. */
  about(/** @type {Record<string, unknown>} */ { clip, turn, track }) {
    if (turn) return gettext("a turn");
    const own = this.clip(Number(clip));
    if (own) return gettext("the clip of {take}", { take: this.takes[String(own.take)]?.name || "a take" });
    const row = this.tracks.find((one) => one.id === track);
    return row ? gettext("the track {name}", { name: row.name }) : gettext("the sound");
  }

  /** The selected item; null if it does not exist any more. */
  selected(/** @type {Selection} */ selection) {
    if (!selection) return undefined;
    return selection.kind === "clip" ? this.clip(selection.id) : this.turn(selection.clip, selection.turn);
  }
}
