/** The Sheet: time runs down, a row a frame; only the rows in sight are drawn. */
import { drag } from "../lib/drag.js";
import { View } from "./canvas.js";

export const ROW = 16;
const HEAD = 26;
const WIDE = 104;
const NARROW = 78;
const COLUMNS = { frame: 44, sound: 56, words: 74, ipa: 44 };

export class Sheet extends View {
  /**
   * @param {HTMLElement} scroller
   * @param {{shot: import("./model.js").Shot, transport: import("./transport.js").Transport,
   *   peaks: import("./peaks.js").Peaks, pictures: Map<number, import("./pictures.js").Pictures>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   * @param {import("./canvas.js").Theme} theme
   */
  constructor(scroller, parts, scope, theme) {
    super(/** @type {HTMLCanvasElement} */ (scroller.querySelector("canvas")), scope, theme);
    this.scroller = scroller;
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.peaks = parts.peaks;
    this.pictures = parts.pictures;
    const filler = /** @type {HTMLElement} */ (scroller.querySelector(".filler"));
    // Every character has a column: the Sheet is as wide as they need, up to what the Stage can spare.
    const wanted = Object.values(COLUMNS).reduce((sum, width) => sum + width, 0) + this.shot.characters.length * (this.shot.characters.length > 1 ? NARROW : WIDE);
    document.documentElement.style.setProperty("--sheet-wanted", `${wanted}px`);
    filler.style.height = `${HEAD + this.shot.frames * ROW}px`;
    scope.listen(scroller, "scroll", () => this.redraw(), { passive: true });
    scope.listen(scroller, "pointerdown", (event) => this.press(event));
    scope.add(this.transport.frame.follow((frame) => this.keepInSight(frame)));
  }

  get columns() {
    let x = 0;
    const out = Object.entries(COLUMNS).map(([name, width]) => {
      const column = { name, x, width };
      x += width;
      return column;
    });
    const width = Math.max(64, (this.width - x) / this.shot.characters.length);
    for (const character of this.shot.characters) {
      out.push({ name: character.name, x, width });
      x += width;
    }
    return out;
  }

  rowAt(/** @type {number} */ clientY) {
    const y = clientY - this.scroller.getBoundingClientRect().top;
    return y < HEAD ? -1 : Math.floor((y - HEAD + this.scroller.scrollTop) / ROW);
  }

  press(/** @type {PointerEvent} */ event) {
    if (event.button !== 0 || event.clientX > this.scroller.getBoundingClientRect().left + this.scroller.clientWidth) return;
    drag(this.scroller, event, (move) => {
      const row = this.rowAt(move.clientY);
      if (row >= 0 && row < this.shot.frames) this.transport.seek(row);
    });
  }

  keepInSight(/** @type {number} */ frame) {
    const y = frame * ROW;
    const room = this.height - HEAD;
    const { scrollTop } = this.scroller;
    if (this.transport.playing.value) this.scroller.scrollTop = y - room * 0.4;
    else if (y < scrollTop + ROW) this.scroller.scrollTop = y - ROW * 3;
    else if (y > scrollTop + room - ROW * 3) this.scroller.scrollTop = y - room + ROW * 6;
    this.redraw();
  }

  draw(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, shot, height, width } = this;
    const top = this.scroller.scrollTop;
    const first = Math.max(0, Math.floor(top / ROW) - 2);
    const last = Math.min(shot.frames, Math.ceil((top + height) / ROW) + 1);
    const y = (/** @type {number} */ frame) => HEAD + frame * ROW - top;
    context.fillStyle = theme.sheet;
    context.fillRect(0, 0, width, height);
    this.drawRules(context, first, last, y);
    this.drawSound(context, first, last, y);
    this.drawTiers(context, first, last, y);
    shot.characters.forEach((character, at) => this.drawHolds(context, character, at, first, last, y));
    this.drawHead(context);
  }

  drawRules(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ first, /** @type {number} */ last, /** @type {(f: number) => number} */ y) {
    const { theme, shot, width } = this;
    const current = this.transport.frame.value;
    const fps = shot.rate.nominal;
    context.fillStyle = theme.wash;
    context.fillRect(0, y(current), width, ROW);
    context.textBaseline = "middle";
    for (let frame = first; frame < last; frame += 1) {
      context.fillStyle = frame % fps === 0 ? theme.tin : frame % 16 === 0 ? theme.tin2 : theme.rule;
      context.fillRect(0, Math.round(y(frame)), width, frame % fps === 0 ? 1.5 : 0.75);
      context.fillStyle = frame === current ? theme.rust : "transparent";
      context.fillRect(0, y(frame), COLUMNS.frame, ROW);
      context.fillStyle = frame === current ? theme.onRust : frame % 2 ? theme.tin : theme.ink;
      context.font = `${frame === current || frame % fps === 0 ? 700 : 400} 11.5px ${theme.mono}`;
      context.textAlign = "right";
      context.fillText(String(shot.number(frame)), COLUMNS.frame - 8, y(frame) + ROW / 2 + 0.5);
    }
    context.fillStyle = theme.rule;
    for (const column of this.columns) context.fillRect(column.x - 0.5, 0, 1, this.height);
  }

  drawSound(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ first, /** @type {number} */ last, /** @type {(f: number) => number} */ y) {
    const { shot, peaks, theme } = this;
    const rowUs = shot.rate.firstUs(1);
    const level = peaks.level(rowUs / 8);
    if (level < 0) return;
    const middle = COLUMNS.frame + COLUMNS.sound / 2;
    const scale = (COLUMNS.sound / 2 - 3) / peaks.loudest;
    context.fillStyle = theme.wave;
    for (let frame = first; frame < last; frame += 1) {
      const start = shot.rate.firstUs(frame);
      for (let part = 0; part < 8; part += 1) {
        const [low, high] = peaks.range(level, start + (rowUs * part) / 8, start + (rowUs * (part + 1)) / 8);
        const reach = Math.max(0.5, Math.max(high, -low) * scale);
        context.fillRect(middle - reach, y(frame) + (ROW * part) / 8, reach * 2, 1.4);
      }
    }
  }

  drawTiers(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ first, /** @type {number} */ last, /** @type {(f: number) => number} */ y) {
    const { shot, theme } = this;
    const fromUs = shot.rate.firstUs(first);
    const toUs = shot.rate.firstUs(last);
    const place = (/** @type {number} */ timeUs) => HEAD + shot.rate.position(timeUs) * ROW - this.scroller.scrollTop;
    const wordX = COLUMNS.frame + COLUMNS.sound;
    context.textAlign = "left";
    for (const word of shot.between(shot.words, fromUs, toUs)) {
      context.fillStyle = theme.speaker(shot.speakerOf(word).ink);
      context.fillRect(wordX + 4, place(word.start) + 1, 2, Math.max(2, place(word.end) - place(word.start) - 2));
      context.fillStyle = theme.ink;
      context.font = `500 12px ${theme.sans}`;
      const row = y(shot.rate.frameAt(word.start));
      context.fillText(word.text, wordX + 11, row + ROW / 2 + 0.5, COLUMNS.words - 14);
      if (word.sure < shot.doubtful) this.wave(wordX + 11, row + ROW - 1.5, Math.min(context.measureText(word.text).width, COLUMNS.words - 14));
    }
    this.drawPhonemes(context, fromUs, toUs, y);
  }

  drawPhonemes(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ fromUs, /** @type {number} */ toUs, /** @type {(f: number) => number} */ y) {
    const { shot, theme } = this;
    const x = COLUMNS.frame + COLUMNS.sound + COLUMNS.words;
    /** @type {Map<number, string>} */
    const rows = new Map();
    for (const phoneme of shot.between(shot.phonemes, fromUs, toUs)) {
      const frame = shot.rate.frameAt(phoneme.start);
      rows.set(frame, (rows.has(frame) ? `${rows.get(frame)} ` : "") + phoneme.ipa.replace("ˈ", ""));
    }
    context.textAlign = "center";
    context.fillStyle = theme.ink2;
    context.font = `400 12.5px ${theme.sans}`;
    for (const [frame, text] of rows) context.fillText(text, x + COLUMNS.ipa / 2, y(frame) + ROW / 2 + 0.5, COLUMNS.ipa - 4);
  }

  drawHolds(/** @type {CanvasRenderingContext2D} */ context, /** @type {import("./model.js").Character} */ character, /** @type {number} */ at, /** @type {number} */ first, /** @type {number} */ last, /** @type {(f: number) => number} */ y) {
    const { shot, theme } = this;
    const column = this.columns[4 + at];
    const stem = column.x + column.width - 22;
    const ink = theme.speaker(character.ink);
    const pictures = this.pictures.get(character.id);
    const current = this.transport.frame.value;
    for (let index = shot.holdIndex(character, first); index < character.holds.length; index += 1) {
      const hold = character.holds[index];
      if (hold.start >= last) break;
      const top = y(hold.start);
      const bottom = y(hold.end);
      if (hold.start <= current && current < hold.end) {
        context.fillStyle = theme.wordWash(character.ink);
        context.fillRect(column.x + 1, top + 1, column.width - 1, bottom - top - 1);
      }
      const room = Math.min(bottom - top, ROW * 2) - 2;
      if (theme.mouthGround) {
        context.fillStyle = theme.mouthGround;
        context.fillRect(column.x + 5, top + 2, Math.min(40, column.width - 50), room - 1);
      }
      pictures?.draw(context, hold.drawing, column.x + 4, top + 1, Math.min(42, column.width - 48), room);
      context.fillStyle = ink;
      context.font = `700 12px ${theme.mono}`;
      context.textAlign = "right";
      context.fillText(shot.label(hold), stem - 8, top + ROW / 2 + 0.5);
      // The stem: from the number to the last frame of the hold.
      context.fillRect(stem, top + 3, 1.25, bottom - top - 5);
      context.fillRect(stem - 3.5, bottom - 3, 8, 1.25);
    }
    this.drawPins(context, character, stem, first, last, y);
  }

  /** Pins: a bar beside the stem with two ends, and a head where it begins. */
  drawPins(/** @type {CanvasRenderingContext2D} */ context, /** @type {import("./model.js").Character} */ character, /** @type {number} */ stem, /** @type {number} */ first, /** @type {number} */ last, /** @type {(f: number) => number} */ y) {
    context.fillStyle = this.theme.rust;
    for (const pin of character.pins) {
      if (pin.end <= first || pin.start >= last) continue;
      const [top, bottom] = [y(pin.start) + 2, y(pin.end) - 2];
      context.fillRect(stem + 8, top, 2, bottom - top);
      context.fillRect(stem + 5, top, 8, 2);
      context.fillRect(stem + 5, bottom - 2, 8, 2);
      context.beginPath();
      context.arc(stem + 9, top + 1, 3.5, 0, 2 * Math.PI);
      context.fill();
    }
  }

  drawHead(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, width } = this;
    context.fillStyle = theme.paper;
    context.fillRect(0, 0, width, HEAD);
    context.fillStyle = theme.tin2;
    context.fillRect(0, HEAD - 1, width, 1);
    context.textAlign = "center";
    context.textBaseline = "middle";
    const labels = ["frame", "sound", "words", "IPA"];
    this.columns.forEach((column, at) => {
      const character = this.shot.characters[at - 4];
      context.fillStyle = character ? theme.speaker(character.ink) : theme.ink2;
      context.font = `${character ? 650 : 500} 12px ${theme.sans}`;
      context.fillText(character ? character.name : labels[at], column.x + column.width / 2, HEAD / 2, column.width - 8);
    });
  }
}
