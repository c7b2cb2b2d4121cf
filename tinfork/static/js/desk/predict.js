/**
 * Predicts the result of an edit before the server responds: only hand-set frames; the solver's result for the rest
 * comes with the response.
 *
 * @typedef {import("./model.js").Hold} Hold
 * @typedef {import("./model.js").Pin} Pin
 * @typedef {{holds: Hold[], pins: Pin[], drawings: import("./model.js").Drawing[]}} Column
 */

/** Set frames `[start, end)` of a column to one drawing; other holds keep the parts outside. */
export function written(/** @type {Hold[]} */ holds, /** @type {Hold} */ put) {
  const out = [];
  for (const hold of holds) {
    if (hold.end <= put.start || hold.start >= put.end) {
      out.push(hold);
      continue;
    }
    if (hold.start < put.start) out.push({ ...hold, end: put.start });
    if (hold.end > put.end) out.push({ ...hold, start: put.end });
  }
  out.push(put);
  return joined(out.sort((a, b) => a.start - b.start));
}

/** Join neighbouring holds of the same drawing. */
function joined(/** @type {Hold[]} */ holds) {
  /** @type {Hold[]} */
  const out = [];
  for (const hold of holds) {
    const last = out[out.length - 1];
    if (last && last.drawing === hold.drawing && last.end === hold.start)
      out[out.length - 1] = { ...last, end: hold.end };
    else out.push(hold);
  }
  return out;
}

/** Remove pins on frames `[start, end)`. */
export function unpinned(/** @type {Pin[]} */ pins, /** @type {number} */ start, /** @type {number} */ end) {
  /** @type {Pin[]} */
  const out = [];
  for (const pin of pins) {
    if (pin.end <= start || pin.start >= end) out.push(pin);
    else {
      if (pin.start < start) out.push({ ...pin, end: start });
      if (pin.end > end) out.push({ ...pin, start: end });
    }
  }
  return out;
}

/** Move the end of a hold: what follows gives way, or begins earlier. */
export function pulled(/** @type {Hold[]} */ holds, /** @type {number} */ at, /** @type {number} */ to) {
  const hold = holds[at];
  if (to > hold.end) return written(holds, { ...hold, end: to });
  return holds.map((one, n) => (n === at ? { ...one, end: to } : n === at + 1 ? { ...one, start: to } : one));
}

/** The holds on frames `[first, end)`, cut at both ends. */
export function part(/** @type {Hold[]} */ holds, /** @type {number} */ first, /** @type {number} */ end) {
  return holds
    .filter((h) => h.start < end && h.end > first)
    .map((h) => ({ ...h, start: Math.max(h.start, first), end: Math.min(h.end, end) }));
}

const byStart = (/** @type {Pin} */ a, /** @type {Pin} */ b) => a.start - b.start;

class Guess {
  constructor(/** @type {Column} */ column) {
    this.holds = column.holds;
    this.pins = column.pins;
    this.frames = column.holds.length ? column.holds[column.holds.length - 1].end : 0;
  }

  /** @param {Hold} hold */
  put(hold) {
    const start = Math.max(0, hold.start);
    const end = Math.min(this.frames, hold.end);
    if (start >= end) return;
    this.holds = written(this.holds, { ...hold, start, end });
    this.pins = [...unpinned(this.pins, start, end), { key: 0, start, end, exact: true }].sort(byStart);
  }

  clear(/** @type {number} */ start, /** @type {number} */ end) {
    this.pins = unpinned(this.pins, start, end);
  }

  /**
   * Move pins with their drawings; everything else stays. False if no pin moves.
   * @param {(pin: Pin) => number[] | null} to the frames of a pin that moves
   */
  move(to) {
    const moved = this.pins.flatMap((pin) => {
      const span = to(pin)?.map((frame) => Math.min(frame, this.frames));
      return span ? [{ pin, start: span[0], end: span[1], shown: this.holdOn(pin.start) }] : [];
    });
    this.pins = this.pins.filter((pin) => !moved.some((one) => one.pin === pin));
    for (const { pin, start, end, shown } of moved) {
      if (start >= end) continue;
      this.put({ ...shown, start, end });
      this.pins = this.pins.map((one) => (one.start === start && one.end === end ? { ...pin, start, end } : one));
    }
    return moved.length > 0;
  }

  holdOn(/** @type {number} */ frame) {
    return this.holds.find((h) => h.start <= frame && frame < h.end) || this.holds[0];
  }

  /** The span of the pin on a frame, or else of its hold. */
  span(/** @type {number} */ frame) {
    return this.pins.find((p) => p.exact && p.start <= frame && frame < p.end) || this.holdOn(frame);
  }
}

/** A drawing's key on the page, from its number and set; 0 for no mouth. */
function idOf(/** @type {Column} */ column, /** @type {number} */ number, set = "") {
  return column.drawings.find((d) => d.number === number && d.set === set)?.id ?? 0;
}

/**
 * By name: applies an edit, or returns `false` if it will be refused.
 * @type {Record<string, (guess: Guess, p: any, column: Column) => boolean | void>}
 */
const GUESSES = {
  pin(guess, p, column) {
    if (p.last < p.first || p.first >= guess.frames) return false;
    const end = Math.min(p.last + 1, guess.frames);
    const before = guess.holdOn(p.first);
    if (p.drawing === null)
      guess.pins = [...unpinned(guess.pins, p.first, end), { key: 0, start: p.first, end, exact: true }].sort(byStart);
    else guess.put({ start: p.first, end, drawing: idOf(column, p.drawing, p.set), viseme: before?.viseme || "" });
  },
  clear(guess, p) {
    if (p.last < p.first) return false;
    guess.clear(p.first, p.last + 1);
  },
  stretch(guess, p) {
    if (p.frame >= guess.frames) return false;
    const hold = guess.holdOn(p.frame);
    const { start, end } = guess.span(p.frame);
    guess.clear(start, end);
    guess.put(
      p.at_start
        ? { ...hold, start: Math.min(p.to, end - 1), end }
        : { ...hold, start, end: Math.max(p.to, start + 1) },
    );
  },
  split_hold(guess, p) {
    if (p.frame >= guess.frames) return false;
    const hold = guess.holdOn(p.frame);
    const { start, end } = guess.span(p.frame);
    if (p.frame <= start) return false;
    guess.put({ ...hold, start, end: p.frame });
    guess.put({ ...hold, start: p.frame, end });
  },
  give_to_before(guess, p) {
    if (p.last < p.first || p.first <= 0 || p.first > guess.frames) return false;
    guess.put({ ...guess.holdOn(p.first - 1), start: guess.span(p.first - 1).start, end: p.last + 1 });
  },
  nudge(guess, p) {
    const moved = part(guess.holds, p.first, p.last + 1).map((hold) => ({
      ...hold,
      start: hold.start + p.by,
      end: hold.end + p.by,
    }));
    if (p.last < p.first || !moved.some((hold) => hold.end > 0 && hold.start < guess.frames)) return false;
    guess.clear(p.first, p.last + 1);
    for (const hold of moved) guess.put(hold);
  },
  insert_frames(guess, p) {
    const until = p.until ?? guess.frames;
    return guess.move((pin) =>
      p.at < pin.end && pin.start < until
        ? [pin.start >= p.at ? pin.start + p.frames : pin.start, pin.end + p.frames]
        : null,
    );
  },
  remove_frames(guess, p) {
    const until = p.until ?? guess.frames;
    const count = p.last + 1 - p.first;
    const moved = (/** @type {number} */ frame) => (frame <= p.first ? frame : Math.max(p.first, frame - count));
    return (
      count > 0 &&
      guess.move((pin) => (p.first < pin.end && pin.start < until ? [moved(pin.start), moved(pin.end)] : null))
    );
  },
  paste(guess, p, column) {
    if (p.of && p.of !== p.speaker) return;
    let at = p.at;
    for (const one of p.holds) {
      guess.put({ start: at, end: at + one.frames, drawing: idOf(column, one.drawing, one.set), viseme: "" });
      at += one.frames;
    }
  },
};

/**
 * A column after an edit, as far as it can be predicted.
 * @param {Column} column
 * @param {string} name
 * @param {Record<string, any>} parameters
 * @returns {{holds: Hold[], pins: Pin[]} | null} null where nothing can be told, or it will be refused
 */
export function predicted(column, name, parameters) {
  const guess = new Guess(column);
  if (!GUESSES[name] || !column.holds.length) return null;
  if (GUESSES[name](guess, parameters, column) === false) return null;
  return { holds: guess.holds, pins: guess.pins };
}
