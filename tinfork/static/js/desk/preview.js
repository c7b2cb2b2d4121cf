/**
 * Words and sounds as they would be while an end or a whole word is dragged: what the server will do, drawn before it is
 * asked. What comes of it is the server's to say.
 *
 * @typedef {import("./model.js").Word} Word
 * @typedef {import("./model.js").Phoneme} Phoneme
 */

/** The shortest sound. */
const LEAST_US = 10_000;

export class Preview {
  /** @param {{words: Word[], phonemes: Phoneme[]}} shot */
  constructor(shot) {
    this.shot = shot;
    this.words = shot.words;
    this.phonemes = shot.phonemes;
    /** @type {number} where the edge, or the start of what slides, has come to */
    this.at = 0;
  }

  soundsOf(/** @type {number} */ word) {
    return this.shot.phonemes.filter((phoneme) => phoneme.word === word);
  }

  /** The number of the same speaker's word that touches a word's start (-1) or end (1). */
  touching(/** @type {number} */ at, /** @type {number} */ side) {
    const { words } = this.shot;
    const word = words[at];
    return words.findIndex((other, n) => n !== at && other.speaker === word.speaker && (side < 0 ? other.end === word.start : other.start === word.end));
  }

  least(/** @type {number} */ word) {
    return LEAST_US * Math.max(1, this.soundsOf(word).length);
  }

  /** The nearest time on a side that a word may not pass. */
  wall(/** @type {number} */ at, /** @type {number} */ side) {
    const { words } = this.shot;
    const word = words[at];
    const others = words.filter((other, n) => n !== at && other.speaker === word.speaker);
    if (side < 0) return Math.max(0, ...others.filter((o) => o.end <= word.start).map((o) => o.end));
    return Math.min(Infinity, ...others.filter((o) => o.start >= word.end).map((o) => o.start));
  }

  /** @param {Map<number, [number, number]>} spans new times of words by their number, sounds in proportion */
  lay(spans) {
    this.words = this.shot.words.map((word, at) => {
      const span = spans.get(at);
      return span ? { ...word, start: span[0], end: span[1] } : word;
    });
    this.phonemes = this.shot.phonemes
      .map((phoneme) => {
        const span = spans.get(phoneme.word);
        if (!span) return phoneme;
        const word = this.shot.words[phoneme.word];
        const scale = (span[1] - span[0]) / (word.end - word.start);
        const moved = (/** @type {number} */ time) => span[0] + (time - word.start) * scale;
        return { ...phoneme, start: moved(phoneme.start), end: moved(phoneme.end) };
      })
      .sort((a, b) => a.start - b.start);
    this.words.sort((a, b) => a.start - b.start);
  }

  /** One end of a word. */
  edge(/** @type {number} */ at, /** @type {boolean} */ atStart, /** @type {number} */ timeUs, /** @type {boolean} */ gap) {
    const word = this.shot.words[at];
    const side = atStart ? -1 : 1;
    const beside = gap ? -1 : this.touching(at, side);
    const wall = beside >= 0 ? (atStart ? this.shot.words[beside].start + this.least(beside) : this.shot.words[beside].end - this.least(beside)) : this.wall(at, side);
    const own = atStart ? word.end - this.least(at) : word.start + this.least(at);
    const time = atStart ? Math.max(wall, Math.min(timeUs, own)) : Math.min(wall, Math.max(timeUs, own));
    /** @type {Map<number, [number, number]>} */
    const spans = new Map([[at, atStart ? [time, word.end] : [word.start, time]]]);
    if (beside >= 0) {
      const other = this.shot.words[beside];
      spans.set(beside, atStart ? [other.start, time] : [time, other.end]);
    }
    this.at = time;
    this.lay(spans);
  }

  /** A whole word, or all words of its line, by a time. */
  slide(/** @type {number} */ at, /** @type {number} */ byUs, /** @type {boolean} */ isLine) {
    const { words } = this.shot;
    const own = isLine ? words.map((w, n) => n).filter((n) => words[n].line === words[at].line && words[n].speaker === words[at].speaker) : [at];
    const [first, last] = [own[0], own[own.length - 1]];
    const before = isLine ? -1 : this.touching(first, -1);
    const after = isLine ? -1 : this.touching(last, 1);
    const low = before >= 0 ? words[before].start + this.least(before) : this.wall(first, -1);
    const high = after >= 0 ? words[after].end - this.least(after) : this.wall(last, 1);
    const by = Math.max(low - words[first].start, Math.min(byUs, high - words[last].end));
    /** @type {Map<number, [number, number]>} */
    const spans = new Map(own.map((n) => [n, [words[n].start + by, words[n].end + by]]));
    if (before >= 0) spans.set(before, [words[before].start, words[first].start + by]);
    if (after >= 0) spans.set(after, [words[last].end + by, words[after].end]);
    this.at = by;
    this.lay(spans);
  }

  /** One end of a sound; at the ends of its word the word goes along. */
  soundEdge(/** @type {number} */ at, /** @type {boolean} */ atStart, /** @type {number} */ timeUs, /** @type {boolean} */ gap) {
    const own = this.shot.phonemes[at];
    const kin = this.soundsOf(own.word);
    const beside = kin[kin.indexOf(own) + (atStart ? -1 : 1)];
    const bound = atStart ? own.end - LEAST_US : own.start + LEAST_US;
    let time = atStart ? Math.min(timeUs, bound) : Math.max(timeUs, bound);
    if (!beside) {
      this.edge(own.word, atStart, time, gap);
      time = this.at;
    } else {
      const touches = !gap && (atStart ? beside.end === own.start : beside.start === own.end);
      const wall = atStart ? (touches ? beside.start + LEAST_US : beside.end) : touches ? beside.end - LEAST_US : beside.start;
      time = atStart ? Math.max(wall, time) : Math.min(wall, time);
    }
    this.phonemes = this.phonemes.map((phoneme) => {
      if (phoneme.word !== own.word) return phoneme;
      const was = kin.find((one) => one.at === phoneme.at) || phoneme;
      if (phoneme.at === own.at) return atStart ? { ...was, start: time } : { ...was, end: time };
      if (beside && phoneme.at === beside.at && !gap) return atStart ? { ...was, end: was.end === own.start ? time : was.end } : { ...was, start: was.start === own.end ? time : was.start };
      return was;
    });
    this.at = time;
  }
}
