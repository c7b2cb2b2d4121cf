/** The columns of the Sheet, their order and widths, and the height of rows. Stored in this browser. */
import { gettext } from "../lib/gettext.js";

/**
 * @typedef {{name: string, label: string, width: number, x: number, character: import("./model.js").Character | null,
 *   motion?: {character: import("./model.js").Character, part: string}}} Column `motion`: whose keys it shows
 */

/** Height of a row by its name. */
export const ROWS = { low: 12, middle: 16, high: 23 };
const NARROW = 78;
const WIDE = 104;
const NARROWEST = 58;
const MOTION = 46;
const MOTION_LEAST = 26;
/** The least widths of columns. @type {Record<string, number>} */
const LEAST = { time: 70, sound: 32, words: 52, ipa: 34, notes: 42 };
const KEY = "tinfork-sheet";

/** Columns besides the characters': name, label, width, whether it is shown by default. */
const PLAIN = /** @type {const} */ ([
  ["frame", gettext("frame"), 44, true],
  ["time", gettext("time"), 84, false],
  ["feet", gettext("feet"), 54, false],
  ["sound", gettext("sound"), 56, true],
  ["words", gettext("words"), 74, true],
  ["ipa", gettext("IPA"), 44, true],
  ["mouths", gettext("mouths"), 0, true],
  ["motion", gettext("motion"), 0, true],
  ["notes", gettext("notes"), 76, true],
]);

export class Columns {
  /**
   * @param {import("./model.js").Character[]} characters
   * @param {{getItem: (key: string) => string | null, setItem: (key: string, value: string) => void}} store
   */
  constructor(characters, store) {
    this.characters = characters;
    this.store = store;
    /** @type {string[]} */
    this.order = PLAIN.map(([name]) => name);
    /** @type {Set<string>} */
    this.hidden = new Set(PLAIN.filter(([, , , shown]) => !shown).map(([name]) => name));
    /** @type {keyof typeof ROWS} */
    this.rows = "middle";
    /**
     * Columns of motion that have keys or are active. @type {Array<{character: import("./model.js").Character, part:
     * string, label: string}>}
     */
    this.moving = [];
    this.read();
  }

  read() {
    try {
      const kept = JSON.parse(this.store.getItem(KEY) || "null");
      if (!kept) return;
      const known = /** @type {string[]} */ (PLAIN.map(([name]) => name));
      const order = kept.order.filter((/** @type {string} */ name) => known.includes(name));
      this.order = [...order, ...known.filter((name) => !order.includes(name))];
      this.hidden = new Set(kept.hidden.filter((/** @type {string} */ name) => known.includes(name)));
      if (kept.rows in ROWS) this.rows = kept.rows;
    } catch {
      // Use the defaults if the stored value is invalid.
    }
  }

  keep() {
    try {
      this.store.setItem(KEY, JSON.stringify({ order: this.order, hidden: [...this.hidden], rows: this.rows }));
    } catch {
      // Without storage, the choice lasts only as long as the page.
    }
  }

  /**
   * Each moving part of the active character has a column.
   * @param {import("./model.js").Shot} shot
   * @param {import("./model.js").Character} active
   * @param {string} part the active one, "" for none
   */
  setMoving(shot, active, part) {
    const character = shot.characters.find((one) => one.id === (active.of || active.id)) || active;
    const others = [...shot.characters, ...shot.fixed]
      .filter((one) => one.of === character.id)
      .map((one) => [String(one.id), one.name.split(", ").at(-1) || one.name]);
    this.moving = [["head", "head"], ["face", "face"], ["mouth", "mouth"], ...others]
      .filter(([one]) => one === part || shot.keysOf(character.id, one).length)
      .map(([one, label]) => ({ character, part: one, label }));
  }

  label(/** @type {string} */ name) {
    return PLAIN.find(([one]) => one === name)?.[1] || name;
  }

  show(/** @type {string} */ name, /** @type {boolean} */ on) {
    if (on) this.hidden.delete(name);
    else this.hidden.add(name);
    this.keep();
  }

  /** Move a column one place to the left or right. */
  move(/** @type {string} */ name, /** @type {number} */ by) {
    const at = this.order.indexOf(name);
    const to = at + by;
    if (at < 0 || to < 0 || to >= this.order.length) return;
    [this.order[at], this.order[to]] = [this.order[to], this.order[at]];
    this.keep();
  }

  setRows(/** @type {keyof typeof ROWS} */ rows) {
    this.rows = rows;
    this.keep();
  }

  get row() {
    return ROWS[this.rows];
  }

  get shown() {
    return this.order.filter((name) => !this.hidden.has(name));
  }

  /** The preferred width of the Sheet. */
  get wanted() {
    const each = this.characters.length > 1 ? NARROW : WIDE;
    return this.shown.reduce(
      (sum, name) => sum + (name === "mouths" ? each * this.characters.length : this.width(name)),
      0,
    );
  }

  width(/** @type {string} */ name) {
    if (name === "motion") return MOTION * this.moving.length;
    return PLAIN.find(([one]) => one === name)?.[2] || 0;
  }

  least(/** @type {string} */ name) {
    if (name === "motion") return MOTION_LEAST * this.moving.length;
    return LEAST[name] || this.width(name);
  }

  /**
   * Distribute the columns over a width; columns of mouths share the rest.
   * @param {number} whole
   * @returns {Column[]}
   */
  laidOut(whole) {
    const others = this.shown.reduce((sum, name) => sum + this.width(name), 0);
    const each = Math.max(NARROWEST, (whole - others) / Math.max(1, this.characters.length));
    // If the width is too small, the other columns shrink to their least widths.
    const over = Math.max(0, others + (this.shown.includes("mouths") ? each * this.characters.length : 0) - whole);
    const spare = this.shown.reduce((sum, name) => sum + this.width(name) - this.least(name), 0);
    const share = spare ? Math.min(1, over / spare) : 0;
    let x = 0;
    /** @type {Column[]} */
    const out = [];
    const add = (
      /** @type {string} */ name,
      /** @type {string} */ label,
      /** @type {number} */ width,
      /** @type {Column["character"]} */ character = null,
      /** @type {Column["motion"]} */ motion = undefined,
    ) => {
      out.push({ name, label, width, x, character, motion });
      x += width;
    };
    for (const name of this.shown) {
      if (name === "mouths") for (const character of this.characters) add("mouths", character.name, each, character);
      else {
        const width = this.width(name) - share * (this.width(name) - this.least(name));
        if (name === "motion")
          for (const { label, ...motion } of this.moving)
            add("motion", label, width / this.moving.length, null, motion);
        else add(name, this.label(name), width);
      }
    }
    return out;
  }
}
