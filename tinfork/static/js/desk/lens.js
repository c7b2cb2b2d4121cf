/** The Lens: a close-up of sound, words, phonemes and holds, with time running across. */
import { View } from "../lib/canvas.js";
import { Viewport } from "../lib/viewport.js";

const RULER = 20;
/** The height above the canvas, and the least height of the waveform. */
const [HEADER, WAVE] = [31, 58];
export const LANE = 25;
const GAP = 3;

/** The lane of a curve. */
const CURVE = 46;

/**
 * @typedef {{character: import("./model.js").Character, part: string, keys: import("../lib/pose.js").Key[], poseOn:
 * (frame: number) => number[]}} Curve
 */
/**
 * @typedef {{kind: "words" | "sounds" | "holds" | "sound" | "motion", top: number, height: number, character?:
 * import("./model.js").Character}} LaneOf
 */

export class Lens extends View {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   peaks: import("../lib/peaks.js").Peaks, pictures: Map<number, import("./pictures.js").Pictures>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   * @param {import("../lib/canvas.js").Theme} theme
   */
  constructor(canvas, parts, scope, theme) {
    super(canvas, scope, theme);
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.peaks = parts.peaks;
    this.pictures = parts.pictures;
    this.view = new Viewport(this.shot.durationUs, 1_400_000);
    this.onMove = () => {};
    /** @type {import("./spectrogram.js").Spectrogram | null} drawn behind the waveform, where it is wanted */
    this.spectrogram = null;
    /** @type {import("./predictwords.js").Said | null} words and sounds as they are dragged */
    this.preview = null;
    /** @type {import("./selection.js").Range | null} */
    this.selected = null;
    /** The active column of motion, if any. @type {Curve | null} */
    this.curve = null;
    scope.listen(canvas, "wheel", (event) => this.wheel(event), { passive: false });
    document.documentElement.style.setProperty("--lens-wanted", `${this.wanted}px`);
    scope.add(this.transport.frame.follow(() => this.follow()));
  }

  resized() {
    this.view.width = this.width;
  }

  /** If there are many lanes of holds, they are lower. */
  get holdHeight() {
    return this.shot.characters.length > 2 ? LANE - 4 : LANE + 8;
  }

  /** The height needed for its lanes and part of the waveform. */
  get wanted() {
    const { characters } = this.shot;
    return (
      HEADER + RULER + WAVE + (2 + characters.length) * (LANE + GAP) + characters.length * (this.holdHeight - LANE) + 6
    );
  }

  /** The lanes from top to bottom. @returns {LaneOf[]} */
  get lanes() {
    const { characters } = this.shot;
    const lanes = 2 + characters.length;
    const more = this.holdHeight - LANE;
    const curve = this.curve ? CURVE + GAP : 0;
    const top = this.height - lanes * (LANE + GAP) - characters.length * more - 6 - curve;
    return [
      { kind: "sound", top: RULER, height: top - GAP - 2 - RULER },
      { kind: "words", top, height: LANE },
      { kind: "sounds", top: top + LANE + GAP, height: LANE },
      ...characters.map((character, at) => ({
        kind: /** @type {const} */ ("holds"),
        top: top + (2 + at) * (LANE + GAP) + at * more,
        height: this.holdHeight,
        character,
      })),
      ...(curve ? [{ kind: /** @type {const} */ ("motion"), top: this.height - 6 - CURVE, height: CURVE }] : []),
    ];
  }

  laneAt(/** @type {number} */ y) {
    return this.lanes.find((lane) => lane.top <= y && y < lane.top + lane.height);
  }

  get words() {
    return this.preview?.words || this.shot.words;
  }

  get phonemes() {
    return this.preview?.phonemes || this.shot.phonemes;
  }

  follow() {
    const timeUs = this.shot.rate.firstUs(this.transport.frame.value);
    const before = this.view.startUs;
    this.view.follow(timeUs);
    if (before !== this.view.startUs) this.onMove();
    this.step();
  }

  moved() {
    this.onMove();
    this.redraw();
  }

  zoom(/** @type {number} */ factor, x = this.view.x(this.shot.rate.firstUs(this.transport.frame.value))) {
    this.view.zoom(factor, Math.max(0, Math.min(this.width, x)));
    this.moved();
  }

  wheel(/** @type {WheelEvent} */ event) {
    event.preventDefault();
    const x = event.clientX - this.canvas.getBoundingClientRect().left;
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      const delta = event.deltaX || event.deltaY;
      this.view.moveTo(this.view.startUs + (delta / this.width) * this.view.spanUs);
      this.moved();
    } else {
      this.zoom(event.deltaY > 0 ? 1.2 : 1 / 1.2, x);
    }
  }

  draw(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, width, height } = this;
    context.fillStyle = theme.sheet;
    context.fillRect(0, 0, width, height);
    const [sound, words, sounds, ...holds] = this.lanes;
    this.spectrogram?.draw(context, this.view, { top: sound.top, height: sound.height, width }, theme);
    this.drawCurrent(context);
    this.drawSelected(context);
    this.drawStill(`${this.view.startUs} ${this.view.spanUs}`, { y: 0, height }, height, (still) => {
      this.drawRuler(still, words.top);
      this.drawSound(still, sound.top, sound.top + sound.height);
      this.drawWords(still, words.top);
      this.drawPhonemes(still, sounds.top);
      for (const lane of holds) if (lane.character) this.drawHolds(still, lane.character, lane.top);
      if (this.curve) this.drawCurve(still, this.curve, this.height - 6 - CURVE);
    });
    this.drawNow(context);
    this.drawPlayhead(context);
  }

  /** Draw the active column of motion: a line for each value that is not always zero, and its keys. */
  drawCurve(/** @type {CanvasRenderingContext2D} */ context, /** @type {Curve} */ curve, /** @type {number} */ top) {
    const { shot, theme, view } = this;
    const { rate } = shot;
    context.fillStyle = theme.paper;
    context.fillRect(0, top, this.width, CURVE);
    const middle = top + CURVE / 2;
    context.fillStyle = theme.tin2;
    context.fillRect(0, middle - 0.5, this.width, 1);
    const first = Math.max(0, rate.frameAt(Math.max(0, Math.floor(view.startUs))) - 1);
    const last = Math.min(shot.frames - 1, rate.frameAt(Math.ceil(view.endUs)) + 1);
    const step = Math.max(1, Math.floor((last - first) / this.width));
    const ink = theme.speaker(curve.character.ink);
    for (let field = 0; field < 6; field += 1) {
      const reach = Math.max(...curve.keys.map((key) => Math.abs(key.pose[field])));
      if (!(reach > 0)) continue;
      context.strokeStyle = ink;
      context.globalAlpha = 1 - field * 0.12;
      context.lineWidth = 1.5;
      context.setLineDash(field > 2 ? [4, 3] : field === 1 ? [1, 2] : []);
      context.beginPath();
      for (let frame = first; frame <= last; frame += step) {
        context.lineTo(view.x(rate.firstUs(frame)), middle - (curve.poseOn(frame)[field] / reach) * (CURVE / 2 - 6));
      }
      context.stroke();
    }
    context.setLineDash([]);
    context.globalAlpha = 1;
    for (const key of curve.keys) {
      const x = view.x(rate.firstUs(key.frame));
      if (x < -6 || x > this.width + 6) continue;
      context.beginPath();
      for (const [dx, dy] of [
        [0, -5],
        [5, 0],
        [0, 5],
        [-5, 0],
      ])
        context.lineTo(x + dx, middle + dy);
      context.closePath();
      context.fillStyle = key.by ? theme.sheet : ink;
      context.strokeStyle = ink;
      context.fill();
      context.stroke();
    }
    context.fillStyle = theme.ink2;
    context.textAlign = "left";
    context.font = `500 11px ${theme.sans}`;
    context.fillText(curve.part.startsWith("-") ? "" : curve.part, 4, top + 9);
  }

  /** Highlight the phoneme and each character's hold at the playhead. */
  drawNow(/** @type {CanvasRenderingContext2D} */ context) {
    const { shot } = this;
    const frame = this.transport.frame.value;
    const nowUs = shot.rate.firstUs(frame);
    const [, , sounds, ...holds] = this.lanes;
    context.textBaseline = "middle";
    const now = shot.between(this.phonemes, nowUs, nowUs + 1);
    for (const phoneme of now) this.drawPhoneme(context, phoneme, sounds.top, true);
    for (const { character, top } of holds) {
      if (!character) continue;
      this.startHolds(context);
      this.drawHold(context, character, shot.holdAt(character, frame), top, true);
      this.drawPins(context, character, top);
    }
  }

  /** Tint the active frame from top to bottom. */
  drawCurrent(/** @type {CanvasRenderingContext2D} */ context) {
    const { rate } = this.shot;
    const frame = this.transport.frame.value;
    const left = this.view.x(rate.firstUs(frame));
    context.fillStyle = this.theme.wash;
    context.fillRect(left, 0, this.view.x(rate.firstUs(frame + 1)) - left, this.height);
  }

  /** Draw the selection of the Sheet. */
  drawSelected(/** @type {CanvasRenderingContext2D} */ context) {
    if (!this.selected) return;
    const { rate } = this.shot;
    const left = this.view.x(rate.firstUs(this.selected.first));
    const right = this.view.x(rate.firstUs(this.selected.end));
    context.fillStyle = this.theme.selected;
    context.fillRect(left, 0, right - left, this.height);
    context.fillStyle = this.theme.rust;
    context.fillRect(left, 0, 1, this.height);
    context.fillRect(right - 1, 0, 1, this.height);
  }

  drawRuler(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ bottom) {
    const { theme, shot, view } = this;
    const first = shot.rate.frameAt(Math.max(0, Math.floor(view.startUs)));
    const last = Math.min(shot.frames, shot.rate.frameAt(Math.ceil(view.endUs)) + 1);
    const perFrame = this.width / Math.max(1, shot.rate.position(view.spanUs));
    const fps = shot.rate.nominal;
    const every = [1, 2, 4, 8, fps, fps * 2, fps * 5, fps * 10, fps * 30].find((n) => n * perFrame >= 34) || fps * 60;
    // When zoomed out, iterate only over seconds, or only over labels.
    const step = perFrame > 5 ? 1 : perFrame > 0.15 ? fps : every;
    context.textBaseline = "middle";
    context.textAlign = "left";
    for (let frame = first - (first % step); frame <= last; frame += step) {
      const x = view.x(shot.rate.firstUs(frame));
      const isSecond = frame % fps === 0;
      context.fillStyle = isSecond ? theme.tin2 : theme.rule;
      context.fillRect(x, RULER, isSecond ? 1.25 : 0.75, bottom - RULER);
      if (frame % every === 0 && frame < shot.frames) {
        context.fillStyle = isSecond ? theme.ink : theme.ink2;
        context.font = `${isSecond ? 650 : 400} 11px ${theme.mono}`;
        context.fillText(String(shot.number(frame)), x + 3, RULER / 2 + 1);
      }
    }
  }

  drawSound(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ top, /** @type {number} */ bottom) {
    const { view, peaks, theme, width } = this;
    const perPixel = view.spanUs / width;
    const level = peaks.level(perPixel);
    if (level < 0) return;
    const middle = (top + bottom) / 2;
    const scale = ((bottom - top) / 2 - 3) / peaks.loudest;
    const end = Math.min(width, view.x(this.shot.durationUs));
    context.fillStyle = theme.wave;
    context.globalAlpha = this.spectrogram ? 0.45 : 1;
    for (let x = 0; x < end; x += 1) {
      const [low, high] = peaks.range(level, view.timeAt(x), view.timeAt(x + 1));
      context.fillRect(x, middle - high * scale - 0.4, 1, (high - low) * scale + 0.8);
    }
    context.globalAlpha = 1;
  }

  /**
   * Draw a box with its label, which stays visible if the box is partly outside.
   * @param {CanvasRenderingContext2D} context
   * @param {{start: number, end: number}} item
   * @param {number} top
   * @param {string} fill
   * @param {string} edge
   */
  box(context, item, top, fill, edge) {
    const left = this.view.x(item.start) + 0.5;
    const right = this.view.x(item.end) - 0.5;
    if (right - left < 6) {
      // Narrow boxes are filled with their edge's colour, since corners and filling would be invisible.
      context.fillStyle = edge;
      context.fillRect(left, top, Math.max(0.6, right - left), LANE);
      return { left, right };
    }
    context.fillStyle = fill;
    context.strokeStyle = edge;
    context.lineWidth = 1;
    context.beginPath();
    context.roundRect(left, top, right - left, LANE, 2.5);
    context.fill();
    context.stroke();
    return { left: Math.max(left, 0), right: Math.min(right, this.width) };
  }

  /**
   * Visible items that do not overlap on the screen; when zoomed out, others are left out.
   * @template {{start: number, end: number}} T
   * @param {T[]} items
   * @returns {T[]}
   */
  apart(items) {
    const { view } = this;
    const found = this.shot.between(items, view.startUs, view.endUs);
    if (found.length < this.width / 3) return found;
    const pixel = view.spanUs / this.width;
    let last = -Infinity;
    return found.filter((item) => {
      if (item.end - last < 1.5 * pixel) return false;
      last = item.end;
      return true;
    });
  }

  drawWords(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ top) {
    const { shot, theme } = this;
    context.textAlign = "left";
    context.font = `600 12.5px ${theme.sans}`;
    for (const word of this.apart(this.words)) {
      const { ink } = shot.speakerOf(word);
      const { left, right } = this.box(context, word, top, theme.wordWash(ink), theme.speaker(ink));
      if (word.pinned) {
        context.fillStyle = theme.rust;
        context.fillRect(left, top, right - left, 2);
      }
      if (right - left < 12) continue;
      context.fillStyle = theme.ink;
      context.fillText(word.text, left + 6, top + LANE / 2 + 0.5, right - left - 9);
      if (word.sure < shot.doubtful)
        this.wave(context, left + 6, top + LANE - 4, Math.min(context.measureText(word.text).width, right - left - 10));
    }
  }

  drawPhonemes(/** @type {CanvasRenderingContext2D} */ context, /** @type {number} */ top) {
    for (const phoneme of this.apart(this.phonemes)) this.drawPhoneme(context, phoneme, top, false);
  }

  drawPhoneme(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Phoneme} */ phoneme,
    /** @type {number} */ top,
    /** @type {boolean} */ isNow,
  ) {
    const { shot, theme } = this;
    context.textAlign = "center";
    context.font = `400 14px ${theme.sans}`;
    const { left, right } = this.box(
      context,
      phoneme,
      top,
      isNow ? theme.wash : theme.sheet,
      isNow ? theme.rust : theme.tin2,
    );
    if (right - left < 9) return;
    context.fillStyle = theme.ink;
    const middle = (left + right) / 2;
    context.fillText(phoneme.ipa, middle, top + LANE / 2, right - left - 3);
    if (phoneme.sure < shot.doubtful / 2) this.wave(context, middle - 6, top + LANE - 4, 12);
  }

  drawHolds(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Character} */ character,
    /** @type {number} */ top,
  ) {
    const { shot, view } = this;
    const { rate } = shot;
    const first = shot.holdIndex(character, rate.frameAt(Math.max(0, Math.floor(view.startUs))));
    this.startHolds(context);
    let drawn = -Infinity;
    for (let index = first; index < character.holds.length; index += 1) {
      const hold = character.holds[index];
      if (view.x(rate.firstUs(hold.start)) > this.width) break;
      const right = view.x(rate.firstUs(hold.end));
      if (right - drawn < 1.5) continue;
      drawn = right;
      this.drawHold(context, character, hold, top, false);
    }
    this.drawPins(context, character, top);
  }

  /** The labels of holds. */
  startHolds(/** @type {CanvasRenderingContext2D} */ context) {
    context.textAlign = "right";
    context.font = `700 11.5px ${this.theme.mono}`;
    context.lineWidth = 1;
  }

  drawHold(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Character} */ character,
    /** @type {import("./model.js").Hold} */ hold,
    /** @type {number} */ top,
    /** @type {boolean} */ isNow,
  ) {
    const { shot, theme, view } = this;
    const height = this.holdHeight;
    const left = view.x(shot.rate.firstUs(hold.start));
    const right = view.x(shot.rate.firstUs(hold.end));
    if (right - left < 6) {
      context.fillStyle = theme.tin2;
      context.fillRect(left, top, 1, height);
      return;
    }
    context.fillStyle = isNow ? theme.wordWash(character.ink) : theme.sheet;
    context.strokeStyle = theme.tin2;
    context.fillRect(left, top, right - left, height);
    context.strokeRect(left + 0.5, top + 0.5, right - left - 1, height - 1);
    const room = Math.min(right, this.width) - left;
    if (room < 16) return;
    const isNumbered = room >= 44;
    const picture = Math.min(44, room - (isNumbered ? 22 : 4));
    if (theme.mouthGround) {
      context.fillStyle = theme.mouthGround;
      context.fillRect(left + 3, top + 3, picture - 2, height - 6);
    }
    this.pictures.get(character.id)?.draw(context, hold.drawing, left + 2, top + 3, picture, height - 6);
    if (!isNumbered) return;
    context.fillStyle = theme.speaker(character.ink);
    context.fillText(shot.label(hold), Math.min(right, this.width) - 5, top + 10);
  }

  drawPins(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Character} */ character,
    /** @type {number} */ top,
  ) {
    const { shot, theme, view } = this;
    const { rate } = shot;
    const height = this.holdHeight;
    context.fillStyle = theme.rust;
    for (const pin of character.pins) {
      const [left, right] = [view.x(rate.firstUs(pin.start)), view.x(rate.firstUs(pin.end))];
      if (right < 0 || left > this.width) continue;
      context.fillRect(left + 1, top + height - 3, right - left - 2, 2);
      context.fillRect(left + 1, top + height - 7, 2, 6);
      context.fillRect(right - 3, top + height - 7, 2, 6);
    }
  }

  drawPlayhead(/** @type {CanvasRenderingContext2D} */ context) {
    const x = this.view.x(this.shot.rate.firstUs(this.transport.frame.value));
    context.fillStyle = this.theme.rust;
    context.fillRect(x - 0.75, 0, 1.5, this.height);
    context.beginPath();
    context.moveTo(x - 5, 0);
    context.lineTo(x + 5, 0);
    context.lineTo(x, 7);
    context.fill();
  }
}
