/**
 * Predicts words and phonemes after an edit, before the server responds and during drags, by the same rules as the
 * server. Unknown things (the phonemes of a retyped word) come with the response.
 *
 * @typedef {import("./model.js").Word} Word
 * @typedef {import("./model.js").Phoneme} Phoneme
 * @typedef {{words: Word[], phonemes: Phoneme[]}} Said
 * @typedef {Said & {durationUs: number, clips: Array<{id: number, end: number}>}} Shown
 * @typedef {{word: Word, sounds: Phoneme[]}} Spoken
 */

/** The least length of a phoneme. */
const LEAST_US = 10_000;

/** Round to the nearest whole number, half to even. */
function rounded(/** @type {number} */ value) {
  const down = Math.floor(value);
  if (value - down !== 0.5) return Math.round(value);
  return down % 2 === 0 ? down : down + 1;
}

const clamp = (/** @type {number} */ low, /** @type {number} */ at, /** @type {number} */ high) =>
  Math.max(low, Math.min(at, high));

/** @param {Spoken} one @returns {Spoken} */
function stretched(one, /** @type {number} */ start, /** @type {number} */ end) {
  const { word } = one;
  const scale = (end - start) / (word.end - word.start);
  const moved = (/** @type {number} */ time) => start + rounded((time - word.start) * scale);
  return {
    word: { ...word, start, end },
    sounds: one.sounds.map((sound) => ({ ...sound, start: moved(sound.start), end: moved(sound.end) })),
  };
}

/** @param {Spoken} one @returns {Spoken} */
function later(one, /** @type {number} */ by) {
  return {
    word: { ...one.word, start: one.word.start + by, end: one.word.end + by },
    sounds: one.sounds.map((sound) => ({ ...sound, start: sound.start + by, end: sound.end + by })),
  };
}

/** @param {Spoken} one @returns {Spoken} */
function byHand(one) {
  return { ...one, word: { ...one.word, pinned: true, sure: 1 } };
}

const least = (/** @type {Spoken} */ one) => LEAST_US * Math.max(1, one.sounds.length);

/** The latest start of a phoneme; one that is too short already keeps its length. */
const latestStart = (/** @type {Phoneme} */ sound) => Math.max(sound.start, sound.end - LEAST_US);
const earliestEnd = (/** @type {Phoneme} */ sound) => Math.min(sound.end, sound.start + LEAST_US);

class Talk {
  constructor(/** @type {Shown} */ shot) {
    /** @type {Spoken[]} */
    this.all = shot.words.map((word) => ({ word, sounds: [] }));
    for (const sound of shot.phonemes) this.all[sound.word].sounds.push(sound);
    this.shot = shot;
  }

  /** The index of a word in a clip. */
  find(/** @type {any} */ { word, clip }) {
    const own = this.all.findIndex((one) => one.word.id === word && one.word.clip === clip);
    return own >= 0 ? own : this.all.findIndex((one) => one.word.id === word);
  }

  /** The latest end of a clip's words. */
  endOf(/** @type {Spoken} */ one) {
    const clip = this.shot.clips.find((other) => other.id === one.word.clip);
    return Math.min(this.shot.durationUs, clip ? clip.end : Infinity);
  }

  /** The index of the speaker's word before (-1) or after (1) a word in the same clip; -1 if there is none. */
  neighbour(/** @type {number} */ at, /** @type {number} */ side) {
    const { word } = this.all[at];
    let found = -1;
    this.all.forEach(({ word: other }, n) => {
      if (n === at || other.speaker !== word.speaker || other.clip !== word.clip) return;
      if (side < 0 ? other.end > word.start : other.start < word.end) return;
      if (found < 0 || (side < 0 ? other.start > this.all[found].word.start : other.start < this.all[found].word.start))
        found = n;
    });
    return found;
  }

  touches(/** @type {number} */ at, /** @type {number} */ other, /** @type {number} */ side) {
    return (
      other >= 0 &&
      (side < 0
        ? this.all[other].word.end === this.all[at].word.start
        : this.all[other].word.start === this.all[at].word.end)
    );
  }

  /** Move one end of a word; an adjacent word follows, unless a gap is wanted. */
  edge(
    /** @type {number} */ at,
    /** @type {boolean} */ atStart,
    /** @type {number} */ timeUs,
    /** @type {boolean} */ gap,
  ) {
    const own = this.all[at];
    const side = atStart ? -1 : 1;
    const other = this.neighbour(at, side);
    const beside = this.all[other];
    const follows = this.touches(at, other, side) && !gap;
    let low = 0;
    let high = this.endOf(own);
    if (beside && atStart) low = follows ? beside.word.start + least(beside) : beside.word.end;
    if (beside && !atStart) high = follows ? beside.word.end - least(beside) : beside.word.start;
    if (atStart) high = own.word.end - least(own);
    else low = own.word.start + least(own);
    const time = clamp(low, timeUs, high);
    this.all[at] = byHand(atStart ? stretched(own, time, own.word.end) : stretched(own, own.word.start, time));
    if (follows)
      this.all[other] = atStart ? stretched(beside, beside.word.start, time) : stretched(beside, time, beside.word.end);
  }

  /** Move a word in time; the near ends of adjacent words follow, other words stop it. */
  slide(/** @type {number} */ at, /** @type {number} */ byUs) {
    const own = this.all[at];
    const [before, after] = [this.neighbour(at, -1), this.neighbour(at, 1)];
    const [left, right] = [this.touches(at, before, -1), this.touches(at, after, 1)];
    let low = 0;
    let high = this.endOf(own);
    if (before >= 0) low = left ? this.all[before].word.start + least(this.all[before]) : this.all[before].word.end;
    if (after >= 0) high = right ? this.all[after].word.end - least(this.all[after]) : this.all[after].word.start;
    const moved = later(own, clamp(low - own.word.start, byUs, high - own.word.end));
    this.all[at] = byHand(moved);
    if (left) this.all[before] = stretched(this.all[before], this.all[before].word.start, moved.word.start);
    if (right) this.all[after] = stretched(this.all[after], moved.word.end, this.all[after].word.end);
  }

  /** Move all words of a line in time, up to the neighbouring lines of the same speaker. */
  slideLine(/** @type {number} */ at, /** @type {number} */ byUs) {
    const { word } = this.all[at];
    /** @type {Map<number, {start: number, end: number}>} */
    const lines = new Map();
    for (const one of this.all) {
      if (one.word.speaker !== word.speaker || one.word.clip !== word.clip) continue;
      const line = lines.get(one.word.line);
      if (line)
        Object.assign(line, { start: Math.min(line.start, one.word.start), end: Math.max(line.end, one.word.end) });
      else lines.set(one.word.line, { start: one.word.start, end: one.word.end });
    }
    const own = /** @type {{start: number, end: number}} */ (lines.get(word.line));
    lines.delete(word.line);
    const others = [...lines.values()];
    const low = Math.max(0, ...others.filter((line) => line.end <= own.start).map((line) => line.end));
    const high = Math.min(
      this.endOf(this.all[at]),
      ...others.filter((line) => line.start >= own.end).map((line) => line.start),
    );
    const by = clamp(low - own.start, byUs, high - own.end);
    this.all = this.all.map((one) => {
      if (one.word.line !== word.line || one.word.clip !== word.clip) return one;
      const moved = later(one, by);
      return { ...moved, word: { ...moved.word, pinned: true } };
    });
  }

  /** Move one end of a phoneme; at the ends of its word, the word's end moves. False if the phoneme is gone. */
  soundEdge(
    /** @type {number} */ at,
    /** @type {number} */ id,
    /** @type {boolean} */ atStart,
    /** @type {number} */ timeUs,
    /** @type {boolean} */ gap,
  ) {
    const own = this.all[at];
    const n = own.sounds.findIndex((one) => one.id === id);
    if (n < 0) return false;
    const sounds = [...own.sounds];
    const sound = sounds[n];
    const side = atStart ? -1 : 1;
    const other = sounds[n + side];
    if (!other) {
      const before = [...this.all];
      this.edge(at, atStart, timeUs, gap);
      const came = atStart ? this.all[at].word.start : this.all[at].word.end;
      const time = atStart ? Math.min(came, latestStart(sound)) : Math.max(came, earliestEnd(sound));
      this.all = before;
      this.edge(at, atStart, time, gap);
      sounds[n] = atStart ? { ...sound, start: time, sure: 1 } : { ...sound, end: time, sure: 1 };
      this.all[at] = byHand({ word: atStart ? { ...own.word, start: time } : { ...own.word, end: time }, sounds });
      return true;
    }
    const follows = !gap && (atStart ? other.end === sound.start : other.start === sound.end);
    if (atStart) {
      const wall = Math.min(sound.start, follows ? other.start + LEAST_US : other.end);
      const time = Math.max(wall, Math.min(timeUs, latestStart(sound)));
      sounds[n] = { ...sound, start: time, sure: 1 };
      if (follows) sounds[n + side] = { ...other, end: time, sure: 1 };
    } else {
      const wall = Math.max(sound.end, follows ? other.end - LEAST_US : other.start);
      const time = Math.min(wall, Math.max(timeUs, earliestEnd(sound)));
      sounds[n] = { ...sound, end: time, sure: 1 };
      if (follows) sounds[n + side] = { ...other, start: time, sure: 1 };
    }
    this.all[at] = byHand({ word: own.word, sounds });
    return true;
  }

  /** @returns {Said} in order of time */
  get said() {
    const inOrder = [...this.all].sort((a, b) => a.word.start - b.word.start);
    const phonemes = inOrder.flatMap(({ sounds }, at) => sounds.map((sound) => ({ ...sound, word: at })));
    return { words: inOrder.map(({ word }) => word), phonemes: phonemes.sort((a, b) => a.start - b.start) };
  }
}

/**
 * By name: applies an edit, or returns `false` if it will be refused.
 * @type {Record<string, (talk: Talk, at: number, p: any) => boolean | void>}
 */
const EDITS = {
  edge(talk, at, p) {
    if (p.sound !== undefined) return talk.soundEdge(at, p.sound, p.edge === "start", p.at_us, Boolean(p.gap));
    talk.edge(at, p.edge === "start", p.at_us, Boolean(p.gap));
  },
  slide(talk, at, p) {
    if (p.what === "line") talk.slideLine(at, p.by_us);
    else talk.slide(at, p.by_us);
  },
  retype(talk, at, p) {
    talk.all[at] = byHand({ ...talk.all[at], word: { ...talk.all[at].word, text: p.text } });
  },
  word_remove(talk, at) {
    talk.all.splice(at, 1);
  },
};

/**
 * Words and phonemes after an edit, as far as they can be predicted.
 * @param {Shown} shot
 * @param {string} name
 * @param {Record<string, any>} parameters
 * @returns {Said | null} null where nothing can be told, or it will be refused
 */
export function predictedWords(shot, name, parameters) {
  if (!EDITS[name]) return null;
  const talk = new Talk(shot);
  const at = talk.find(parameters);
  if (at < 0 || EDITS[name](talk, at, parameters) === false) return null;
  return talk.said;
}
