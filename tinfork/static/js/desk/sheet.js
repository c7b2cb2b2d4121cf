/** The Sheet: time runs down, with a row per frame; only visible rows are drawn. */

import { View } from "../lib/canvas.js";
import { feetAndFrames, timecode } from "../lib/clock.js";

/** @typedef {import("./columns.js").Column} Column */

const HEAD = 26;
/** The position of the stems in a mouth column. */
const stemOf = (/** @type {Column} */ column) => column.x + column.width - (column.width < 70 ? 14 : 22);

const SIGNS = ["→", "↓", "°", "↕", "∕", "×"];

/** The largest value of a pose, in a few letters. */
function most(/** @type {number[]} */ pose) {
  const six = pose.slice(0, SIGNS.length);
  const at = six.reduce((best, value, n) => (Math.abs(value) > Math.abs(six[best]) ? n : best), 2);
  if (pose.length > six.length && Math.abs(six[at]) < 1) return "bent";
  return `${Math.round(pose[at])}${SIGNS[at]}`;
}

export class Sheet extends View {
  /**
   * @param {HTMLElement} scroller
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   peaks: import("../lib/peaks.js").Peaks, pictures: Map<number, import("./pictures.js").Pictures>,
   *   columns: import("./columns.js").Columns, selection: import("./selection.js").Selection}} parts
   * @param {import("../lib/scope.js").Scope} scope
   * @param {import("../lib/canvas.js").Theme} theme
   */
  constructor(scroller, parts, scope, theme) {
    super(/** @type {HTMLCanvasElement} */ (scroller.querySelector("canvas")), scope, theme);
    this.scroller = scroller;
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.peaks = parts.peaks;
    this.pictures = parts.pictures;
    this.choice = parts.columns;
    this.selection = parts.selection;
    /** @type {Column[]} */
    this.columns = [];
    /** @type {Map<number, Array<[number, number]>>} frames on which a version shows other mouths, by character */
    this.differs = new Map();
    /**
     * @type {{character: import("./model.js").Character, edge: number, to: number} | null} an end that is being dragged
     */
    this.pulled = null;
    this.arrange();
    /** The drawn scroll position. */
    this.scrolled = 0;
    scope.listen(scroller, "scroll", () => this.step(), { passive: true });
    scope.add(this.selection.range.follow(() => this.redraw()));
    scope.add(this.transport.frame.follow((frame) => this.keepInSight(frame)));
  }

  get row() {
    return this.choice.row;
  }

  /** Update after columns or the height of rows changed. */
  arrange() {
    // The Sheet is as wide as its columns need, up to what the Stage can spare.
    const filler = /** @type {HTMLElement} */ (this.scroller.querySelector(".filler"));
    filler.style.height = `${HEAD + this.shot.frames * this.row}px`;
    this.widen();
    this.keepInSight(this.transport.frame.value);
  }

  /** Update after the list of columns changed. */
  widen() {
    document.documentElement.style.setProperty("--sheet-wanted", `${this.choice.wanted}px`);
    this.columns = this.choice.laidOut(this.width);
    this.redraw();
  }

  resized() {
    if (this.choice) this.columns = this.choice.laidOut(this.width);
  }

  /** The frame at a vertical position in the window, which may be outside the shot; -1 on the head. */
  rowAt(/** @type {number} */ clientY) {
    const y = clientY - this.scroller.getBoundingClientRect().top;
    return y < HEAD ? -1 : Math.floor((y - HEAD + this.scroller.scrollTop) / this.row);
  }

  columnAt(/** @type {number} */ clientX) {
    const x = clientX - this.scroller.getBoundingClientRect().left;
    return this.columns.find((column) => column.x <= x && x < column.x + column.width);
  }

  /** The vertical position of a frame in the Sheet's window, for overlays. */
  top(/** @type {number} */ frame) {
    return HEAD + frame * this.row - this.scrolled;
  }

  /** The end of a hold near the pointer. */
  edgeAt(/** @type {number} */ clientX, /** @type {number} */ clientY) {
    const column = this.columnAt(clientX);
    if (!column?.character) return null;
    const y = clientY - this.scroller.getBoundingClientRect().top - HEAD + this.scroller.scrollTop;
    const edge = Math.round(y / this.row);
    if (Math.abs(y - edge * this.row) > Math.min(4, this.row / 3) || edge <= 0 || edge > this.shot.frames) return null;
    const isEnd =
      column.character.holds.some((hold) => hold.end === edge) ||
      column.character.pins.some((pin) => pin.end === edge || pin.start === edge);
    return isEnd ? { character: column.character, edge } : null;
  }

  keepInSight(/** @type {number} */ frame) {
    const y = frame * this.row;
    const room = this.height - HEAD;
    const { scrollTop } = this.scroller;
    if (this.transport.playing.value) this.scroller.scrollTop = y - room * 0.4;
    else if (y < scrollTop + this.row) this.scroller.scrollTop = y - this.row * 3;
    else if (y > scrollTop + room - this.row * 3) this.scroller.scrollTop = y - room + this.row * 6;
    this.step();
  }

  draw(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, height, width } = this;
    // Read once: reading after writing forces a new layout.
    const top = Math.round(this.scroller.scrollTop);
    this.scrolled = top;
    context.fillStyle = theme.sheet;
    context.fillRect(0, 0, width, height);
    context.textBaseline = "middle";
    this.drawHere(context);
    // Visible rows and as many after them are one picture, which is moved during playback.
    const page = Math.max(height, 64);
    const begins = Math.floor(top / page) * page;
    this.drawStill(`${begins} ${this.row}`, { y: top - begins, height }, 2 * page, (still) =>
      this.drawRows(still, begins, 2 * page),
    );
    this.drawFrame(context);
    this.drawSelection(context);
    this.drawPulled(context);
    this.drawHead(context);
  }

  /** Draw all rows from a position on, without the playhead. */
  drawRows(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {number} */ begins,
    /** @type {number} */ height,
  ) {
    const { shot, row, scrolled } = this;
    this.scrolled = begins;
    const first = Math.max(0, Math.floor((begins - HEAD) / row) - 1);
    const last = Math.min(shot.frames, Math.ceil((begins + height) / row) + 1);
    this.drawRules(context, first, last, height);
    for (const column of this.columns) {
      if (column.character) this.drawHolds(context, column, column.character, first, last);
      else this.drawPlain(context, column, first, last);
    }
    this.drawRemarks(context, first, last);
    this.scrolled = scrolled;
  }

  /** Draw the background of the rows: the playhead's row and its holds. */
  drawHere(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, shot, width, row } = this;
    const current = this.transport.frame.value;
    context.fillStyle = theme.wash;
    context.fillRect(0, this.top(current), width, row);
    for (const column of this.columns) {
      if (!column.character) continue;
      const hold = shot.holdAt(column.character, current);
      const [top, bottom] = [this.top(hold.start), this.top(hold.end)];
      context.fillStyle = theme.wordWash(column.character.ink);
      context.fillRect(column.x + 1, top + 1, column.width - 1, bottom - top - 1);
    }
  }

  /** Draw the number of the playhead's frame. */
  drawFrame(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, shot, row } = this;
    const current = this.transport.frame.value;
    for (const column of this.columns) {
      if (column.name !== "frame") continue;
      context.fillStyle = theme.rust;
      context.fillRect(column.x, this.top(current), column.width, row);
      context.fillStyle = theme.onRust;
      context.textAlign = "right";
      context.font = `700 ${Math.min(11.5, row - 2)}px ${theme.mono}`;
      context.fillText(String(shot.number(current)), column.x + column.width - 8, this.top(current) + row / 2 + 0.5);
    }
  }

  drawRules(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {number} */ first,
    /** @type {number} */ last,
    /** @type {number} */ height,
  ) {
    const { theme, shot, width } = this;
    const fps = shot.rate.nominal;
    for (let frame = first; frame < last; frame += 1) {
      context.fillStyle = frame % fps === 0 ? theme.tin : frame % 16 === 0 ? theme.tin2 : theme.rule;
      context.fillRect(0, Math.round(this.top(frame)), width, frame % fps === 0 ? 1.5 : 0.75);
    }
    context.fillStyle = theme.rule;
    for (const column of this.columns) context.fillRect(column.x - 0.5, 0, 1, height);
  }

  drawPlain(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    if (column.name === "sound") this.drawSound(context, column, first, last);
    else if (column.name === "words") this.drawWords(context, column, first, last);
    else if (column.name === "ipa") this.drawPhonemes(context, column, first, last);
    else if (column.motion) this.drawMotion(context, column, column.motion, first, last);
    else if (column.name === "notes") this.drawNotes(context, column, first, last);
    else this.drawNumbers(context, column, first, last);
  }

  /** Draw keys of motion with the largest value of each; lines show movement or holding between them. */
  drawMotion(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {{character: import("./model.js").Character, part: string}} */ motion,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, theme, row } = this;
    const keys = shot.keysOf(motion.character.id, motion.part);
    const ink = theme.speaker(motion.character.ink);
    const x = column.x + 9;
    context.font = `400 ${Math.min(11, row)}px ${theme.mono}`;
    context.textAlign = "left";
    keys.forEach((key, at) => {
      const next = keys[at + 1];
      if (next && next.frame >= first && key.frame < last) {
        context.fillStyle = key.way === "hold" ? theme.tin2 : ink;
        const [top, bottom] = [this.top(key.frame) + row / 2 + 4, this.top(next.frame) + row / 2 - 4];
        if (key.way === "hold") for (let y = top; y < bottom; y += 4) context.fillRect(x - 0.5, y, 1, 2);
        else context.fillRect(x - 0.5, top, 1, bottom - top);
      }
      if (key.frame < first || key.frame >= last) return;
      const y = this.top(key.frame) + row / 2;
      context.beginPath();
      for (const [dx, dy] of [
        [0, -4],
        [4, 0],
        [0, 4],
        [-4, 0],
      ])
        context.lineTo(x + dx, y + dy);
      context.closePath();
      context.fillStyle = context.strokeStyle = ink;
      context.lineWidth = 1;
      // Proposed keys are hollow, keys set by hand are solid.
      if (key.by) context.stroke();
      else context.fill();
      context.fillStyle = theme.ink2;
      if (column.width > 34) context.fillText(most(key.pose), x + 7, y + 0.5, column.width - 17);
    });
  }

  /** Draw bars beside frames with open remarks. */
  drawRemarks(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, theme } = this;
    context.fillStyle = theme.rust;
    for (const look of shot.secondLooks) {
      if (look.kind !== "remark") continue;
      const [start, end] = [shot.rate.frameAt(look.start), shot.rate.frameAt(look.end - 1) + 1];
      if (end > first && start < last) context.fillRect(0, this.top(start), 4, this.top(end) - this.top(start));
    }
  }

  /** Frame numbers, timecode, or feet and frames. */
  drawNumbers(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { theme, shot, row } = this;
    const size = Math.min(11.5, row - 2);
    context.textAlign = "right";
    for (let frame = first; frame < last; frame += 1) {
      const isSecond = frame % shot.rate.nominal === 0;
      context.fillStyle = frame % 2 ? theme.tin : theme.ink;
      context.font = `${isSecond ? 700 : 400} ${size}px ${theme.mono}`;
      const text =
        column.name === "time"
          ? timecode(frame, shot.rate)
          : column.name === "feet"
            ? feetAndFrames(frame)
            : String(shot.number(frame));
      context.fillText(text, column.x + column.width - 8, this.top(frame) + row / 2 + 0.5);
    }
  }

  drawSound(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, peaks, theme, row } = this;
    const rowUs = shot.rate.firstUs(1);
    const parts = row < 14 ? 6 : 8;
    const level = peaks.level(rowUs / parts);
    if (level < 0) return;
    const middle = column.x + column.width / 2;
    const scale = (column.width / 2 - 3) / peaks.loudest;
    context.fillStyle = theme.wave;
    for (let frame = first; frame < last; frame += 1) {
      const start = shot.rate.firstUs(frame);
      for (let part = 0; part < parts; part += 1) {
        const [low, high] = peaks.range(level, start + (rowUs * part) / parts, start + (rowUs * (part + 1)) / parts);
        const reach = Math.max(0.5, Math.max(high, -low) * scale);
        context.fillRect(middle - reach, this.top(frame) + (row * part) / parts, reach * 2, 1.4);
      }
    }
  }

  drawWords(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, theme, row } = this;
    const place = (/** @type {number} */ timeUs) => HEAD + shot.rate.position(timeUs) * row - this.scrolled;
    context.textAlign = "left";
    context.font = `500 ${Math.min(12, row - 1)}px ${theme.sans}`;
    for (const word of shot.between(shot.words, shot.rate.firstUs(first), shot.rate.firstUs(last))) {
      context.fillStyle = theme.speaker(shot.speakerOf(word).ink);
      context.fillRect(column.x + 4, place(word.start) + 1, 2, Math.max(2, place(word.end) - place(word.start) - 2));
      context.fillStyle = theme.ink;
      const y = this.top(shot.rate.frameAt(word.start));
      context.fillText(word.text, column.x + 11, y + row / 2 + 0.5, column.width - 14);
      if (word.sure < shot.doubtful)
        this.wave(
          context,
          column.x + 11,
          y + row - 1.5,
          Math.min(context.measureText(word.text).width, column.width - 14),
        );
    }
  }

  drawPhonemes(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, theme, row } = this;
    /** @type {Map<number, string>} */
    const rows = new Map();
    for (const phoneme of shot.between(shot.phonemes, shot.rate.firstUs(first), shot.rate.firstUs(last))) {
      const frame = shot.rate.frameAt(phoneme.start);
      rows.set(frame, (rows.has(frame) ? `${rows.get(frame)} ` : "") + phoneme.ipa.replace("ˈ", ""));
    }
    context.textAlign = "center";
    context.fillStyle = theme.ink2;
    context.font = `400 ${Math.min(12.5, row)}px ${theme.sans}`;
    for (const [frame, text] of rows)
      context.fillText(text, column.x + column.width / 2, this.top(frame) + row / 2 + 0.5, column.width - 4);
  }

  drawNotes(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, theme, row } = this;
    context.save();
    context.beginPath();
    context.rect(column.x, 0, column.width, context.canvas.height);
    context.clip();
    context.textAlign = "left";
    context.font = `italic 400 ${Math.min(12, row - 1)}px ${theme.sans}`;
    context.fillStyle = theme.ink;
    for (const note of shot.notes)
      if (note.frame >= first && note.frame < last)
        context.fillText(note.text, column.x + 6, this.top(note.frame) + row / 2 + 0.5);
    context.restore();
  }

  drawHolds(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {import("./model.js").Character} */ character,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    const { shot, theme, row } = this;
    const stem = stemOf(column);
    const picture = Math.min(42, stem - column.x - 26);
    const ink = theme.speaker(character.ink);
    const pictures = this.pictures.get(character.id);
    this.drawDiffering(context, column, character, first, last);
    context.textAlign = "right";
    context.font = `700 ${Math.min(12, row)}px ${theme.mono}`;
    for (let index = shot.holdIndex(character, first); index < character.holds.length; index += 1) {
      const hold = character.holds[index];
      if (hold.start >= last) break;
      const top = this.top(hold.start);
      const bottom = this.top(hold.end);
      const room = Math.min(bottom - top, Math.max(row * 2, 32)) - 2;
      if (theme.mouthGround) {
        context.fillStyle = theme.mouthGround;
        context.fillRect(column.x + 5, top + 2, picture - 2, room - 1);
      }
      pictures?.draw(context, hold.drawing, column.x + 4, top + 1, picture, room);
      context.fillStyle = ink;
      context.fillText(shot.label(hold), stem - 8, top + Math.min(row, 16) / 2 + 0.5);
      // The stem from the number to the last frame of the hold.
      context.fillRect(stem, top + 3, 1.25, bottom - top - 5);
      context.fillRect(stem - 3.5, bottom - 3, 8, 1.25);
    }
    this.drawPins(context, character, stem, first, last);
  }

  /** Hatch frames on which the compared version shows another mouth, at the left of the column. */
  drawDiffering(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {Column} */ column,
    /** @type {import("./model.js").Character} */ character,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    context.fillStyle = this.theme.rust;
    for (const [start, end] of this.differs.get(character.id) || []) {
      if (end <= first || start >= last) continue;
      for (let y = this.top(start) + 1; y < this.top(end) - 1; y += 4) context.fillRect(column.x + 1, y, 3, 2);
    }
  }

  /** Pins: a bar beside the stem with two ends, and a head at its start. */
  drawPins(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Character} */ character,
    /** @type {number} */ stem,
    /** @type {number} */ first,
    /** @type {number} */ last,
  ) {
    context.fillStyle = this.theme.rust;
    for (const pin of character.pins) {
      if (pin.end <= first || pin.start >= last) continue;
      const [top, bottom] = [this.top(pin.start) + 2, this.top(pin.end) - 2];
      context.fillRect(stem + 8, top, 2, bottom - top);
      context.fillRect(stem + 5, top, 8, 2);
      context.fillRect(stem + 5, bottom - 2, 8, 2);
      context.beginPath();
      context.arc(stem + 9, top + 1, 3.5, 0, 2 * Math.PI);
      context.fill();
    }
  }

  drawSelection(/** @type {CanvasRenderingContext2D} */ context) {
    const range = this.selection.range.value;
    if (!range) return;
    const own = this.columns.filter((column) => column.character && range.who.includes(column.character.id));
    const all = own.length === this.shot.characters.length && own.length > 1;
    const left = all ? 0 : Math.min(...own.map((c) => c.x));
    const right = all ? this.width : Math.max(...own.map((c) => c.x + c.width));
    const [top, bottom] = [this.top(range.first), this.top(range.end)];
    context.fillStyle = this.theme.selected;
    context.fillRect(left, top, right - left, bottom - top);
    context.strokeStyle = this.theme.rust;
    context.lineWidth = 1.5;
    context.strokeRect(left + 0.75, top + 0.75, right - left - 1.5, bottom - top - 1.5);
  }

  /** The target of a dragged end. */
  drawPulled(/** @type {CanvasRenderingContext2D} */ context) {
    const { pulled } = this;
    const column = pulled && this.columns.find((one) => one.character === pulled.character);
    if (!pulled || !column) return;
    const [from, to] = [this.top(pulled.edge), this.top(pulled.to)];
    context.fillStyle = this.theme.selected;
    context.fillRect(column.x, Math.min(from, to), column.width, Math.abs(to - from));
    context.fillStyle = this.theme.rust;
    context.fillRect(column.x, to - 1, column.width, 2);
  }

  drawHead(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, width } = this;
    context.fillStyle = theme.paper;
    context.fillRect(0, 0, width, HEAD);
    context.fillStyle = theme.tin2;
    context.fillRect(0, HEAD - 1, width, 1);
    context.textAlign = "center";
    context.textBaseline = "middle";
    for (const column of this.columns) {
      const whose = column.character || column.motion?.character;
      context.fillStyle = whose ? theme.speaker(whose.ink) : theme.ink2;
      context.font = `${column.character ? 650 : 500} 12px ${theme.sans}`;
      context.fillText(column.label, column.x + column.width / 2, HEAD / 2, column.width - 8);
    }
  }
}
