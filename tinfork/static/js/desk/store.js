/**
 * The page's store of a shot: the confirmed document, and pending edits. The displayed state is `reduce` of both, which
 * modifies neither: a refused edit disappears once it is not pending any more.
 *
 * @typedef {import("./model.js").Character} Character
 * @typedef {import("./model.js").State & import("./model.js").Heard & {durationUs: number, frames: number,
 *   characters: Character[]}} ShotState
 * @typedef {{token: string, name: string, parameters: Record<string, any>}} Pending
 */
import { editedKeys } from "./motionedits.js";
import { predicted } from "./predict.js";
import { predictedWords } from "./predictwords.js";

/**
 * A shot after an edit, as far as it can be predicted; the same object if it cannot.
 * @param {ShotState} state
 * @param {string} name
 * @param {Record<string, any>} parameters
 * @returns {ShotState}
 */
export function reduce(state, name, parameters) {
  const own = OWN[name]?.(state, parameters);
  if (own) return { ...state, ...own };
  const { speaker, part } = parameters;
  const keys = part && editedKeys(state.motion[speaker]?.[part] || [], name, parameters, state.frames);
  if (keys) return { ...state, motion: { ...state.motion, [speaker]: { ...state.motion[speaker], [part]: keys } } };
  const column = state.characters.find((one) => String(one.id) === parameters.speaker);
  const guess = column && predicted(column, name, parameters);
  if (guess)
    return { ...state, characters: state.characters.map((one) => (one === column ? { ...one, ...guess } : one)) };
  const said = predictedWords(state, name, parameters);
  return said ? { ...state, ...said } : state;
}

/**
 * Edits of neither columns nor words.
 * @type {Record<string, (state: ShotState, p: any) => Partial<ShotState> | null>}
 */
const OWN = {
  note({ notes }, { frame, text, note }) {
    const own = notes.find((one) => (note ? one.id === note : one.frame === frame));
    const others = notes.filter((one) => one !== own);
    return { notes: text ? [...others, { id: own?.id || 0, frame: own?.frame ?? frame, text: String(text) }] : others };
  },
  pass_note({ passNotes }, { speaker, part, text }) {
    const { [part]: _, ...others } = passNotes[speaker] || {};
    return { passNotes: { ...passNotes, [speaker]: text ? { ...others, [part]: String(text) } : others } };
  },
  settle({ looks }, { key, open }) {
    return { looks: looks.map((look) => (look.key === key ? { ...look, settled: !open } : look)) };
  },
  stand({ layout }, { speaker, usual, ...stand }) {
    return usual ? null : { layout: { ...layout, stands: { ...layout.stands, [speaker]: stand } } };
  },
  ground({ layout }, { colour, clear }) {
    return { layout: { ...layout, ground: colour, ...(clear ? { background: "" } : {}) } };
  },
  boil({ layout }, { strength, rhythm }) {
    return { layout: { ...layout, boil: { strength, rhythm: rhythm ?? 2 } } };
  },
  gain({ clips }, { clip, db }) {
    return { clips: clips.map((one) => (one.id === clip ? { ...one, gain: db } : one)) };
  },
};

/**
 * Replace fields; a list may be given as a splice of the present one.
 * @template {Record<string, any>} T
 * @param {T} known
 * @param {Record<string, any>} changed
 * @returns {T}
 */
function spliced(known, changed) {
  /** @type {Record<string, any>} */
  const out = { ...known };
  for (const [name, value] of Object.entries(changed)) {
    const list = out[name];
    const isSplice = Array.isArray(list) && value && !Array.isArray(value);
    out[name] = isSplice ? [...list.slice(0, value.at), ...value.put, ...list.slice(value.at + value.gone)] : value;
  }
  return /** @type {T} */ (out);
}

/**
 * The phonemes of words in order of time, each with the index of its word.
 * @param {import("./model.js").Word[]} words
 * @returns {import("./model.js").Phoneme[]}
 */
export function soundsOf(words) {
  return words
    .flatMap(({ sounds = [] }, word) => sounds.map((sound) => ({ ...sound, word })))
    .sort((a, b) => a.start - b.start);
}

export class Store {
  /** @param {import("./model.js").DeskDocument} document */
  constructor({ shot, ...document }) {
    /** @type {ShotState} */
    this.confirmed = { ...document, durationUs: shot.durationUs, frames: shot.frames };
    this.shown = this.confirmed;
    /** @type {string[]} the tokens of the edits that are in what is shown */
    this.drawn = [];
  }

  /**
   * Apply changes from the server; other fields stay. False if they are based on another state than the present one.
   */
  confirm(/** @type {import("./model.js").Changes} */ { since, characters, ...changed }) {
    if (since !== undefined && since !== this.confirmed.revision) return false;
    const columns = this.confirmed.characters.map((one) => spliced(one, characters[String(one.id)] || {}));
    const now = spliced(this.confirmed, changed);
    this.confirmed = { ...now, characters: columns, phonemes: changed.words ? soundsOf(now.words) : now.phonemes };
    this.shown = this.confirmed;
    this.drawn = [];
    return true;
  }

  /**
   * Compute the displayed state with pending edits; returns whether it changed.
   * @param {Pending[]} pending
   */
  show(pending) {
    const before = this.shown;
    const goesOn = this.drawn.length <= pending.length && this.drawn.every((token, at) => pending[at].token === token);
    if (!goesOn) {
      this.shown = this.confirmed;
      this.drawn = [];
    }
    for (const { token, name, parameters } of pending.slice(this.drawn.length)) {
      this.shown = reduce(this.shown, name, parameters);
      this.drawn.push(token);
    }
    return this.shown !== before;
  }
}
