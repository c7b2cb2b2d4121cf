/** Draws the lanes of a shot's sound: ruler, tracks with clips, words, turns; only the visible part. */
import { View } from "../lib/canvas.js";
import { gettext } from "../lib/gettext.js";
import { Peaks } from "../lib/peaks.js";
import { Viewport } from "../lib/viewport.js";
import { heightOf, lanesOf, RULER } from "./layout.js";

export class Lanes extends View {
  /**
   * @param {HTMLCanvasElement} canvas
   * @param {{shot: import("./model.js").SoundShot, transport: import("../lib/transport.js").Transport}} parts
   * @param {import("../lib/scope.js").Scope} scope
   * @param {import("../lib/canvas.js").Theme} theme
   */
  constructor(canvas, parts, scope, theme) {
    super(canvas, scope, theme);
    this.shot = parts.shot;
    this.transport = parts.transport;
    this.view = new Viewport(this.room(), this.room());
    /** @type {import("./model.js").Selection} */
    this.selection = null;
    /** The preview of a gesture on the selected item. @type {any} */
    this.preview = null;
    /** @type {Array<{speaker: number, start: number, end: number}>} */
    this.taps = [];
    /** @type {Map<string, Peaks>} */
    this.peaks = new Map();
    /** @type {import("./layout.js").Lane[]} */
    this.lanes = [];
    this.onLanes = (/** @type {import("./layout.js").Lane[]} */ _lanes) => {};
    scope.add(this.transport.frame.follow(() => this.follow()));
  }

  /** Slightly longer than the shot, so that clips can be moved to its end. */
  room() {
    return Math.max(4_000_000, Math.round(this.shot.durationUs * 1.08) + 500_000);
  }

  /** Update after a change of the shot, keeping the view. */
  renew() {
    const whole = this.view.spanUs >= this.view.durationUs - 1;
    this.view.durationUs = this.room();
    if (whole) this.view.spanUs = this.view.durationUs;
    this.view.spanUs = Math.min(this.view.spanUs, this.view.durationUs);
    this.view.moveTo(this.view.startUs);
    this.resized();
    this.redraw();
  }

  resized() {
    this.view.width = this.width;
    this.lanes = lanesOf(this.shot, this.height);
    this.onLanes(this.lanes);
  }

  follow() {
    this.view.follow(this.shot.rate.firstUs(this.transport.frame.value));
    this.redraw();
  }

  peaksOf(/** @type {number} */ take) {
    const document = this.shot.takes[String(take)];
    const key = document.peaks[0];
    let found = this.peaks.get(key);
    if (!found) {
      found = new Peaks(document);
      found.onArrival = () => this.redraw();
      this.peaks.set(key, found);
    }
    return found;
  }

  draw(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, width, height } = this;
    context.fillStyle = theme.paper;
    context.fillRect(0, 0, width, height);
    context.textBaseline = "middle";
    this.drawFrame(context);
    for (const lane of this.lanes) {
      if (lane.kind === "track") this.drawTrack(context, lane);
      else if (lane.kind === "words") this.drawWords(context, lane);
      else if (lane.kind === "turns") this.drawTurns(context, lane);
    }
    this.drawRuler(context);
    this.drawEnd(context);
    this.drawPlayhead(context);
    this.canvas.dataset.drawn = "true";
  }

  drawFrame(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, shot, view, width } = this;
    context.fillStyle = theme.sheet;
    for (const lane of this.lanes) if (lane.kind !== "ruler") context.fillRect(0, lane.top, width, lane.height);
    const fps = shot.rate.nominal;
    const first = shot.rate.frameAt(Math.max(0, Math.floor(view.startUs)));
    const last = shot.rate.frameAt(Math.ceil(view.endUs)) + 1;
    const perSecond = (1e6 / view.spanUs) * width;
    const every = perSecond > 6 ? fps : fps * 10;
    context.fillStyle = theme.rule;
    const bottom = heightOf(this.lanes);
    for (let frame = Math.floor(first / every) * every; frame <= last; frame += every) {
      context.fillRect(view.x(shot.rate.firstUs(frame)), RULER, 1, bottom - RULER);
    }
  }

  drawRuler(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, shot, view, width } = this;
    context.fillStyle = theme.paper;
    context.fillRect(0, 0, width, RULER);
    const fps = shot.rate.nominal;
    const perFrame = width / Math.max(1, shot.rate.position(view.spanUs));
    const every =
      [1, 2, 4, 8, fps, fps * 2, fps * 5, fps * 10, fps * 30, fps * 60].find((n) => n * perFrame >= 54) || fps * 300;
    const first = shot.rate.frameAt(Math.max(0, Math.floor(view.startUs)));
    const last = shot.rate.frameAt(Math.ceil(view.endUs)) + 1;
    context.textAlign = "left";
    for (let frame = Math.floor(first / every) * every; frame <= last; frame += every) {
      const x = view.x(shot.rate.firstUs(frame));
      context.fillStyle = frame % fps ? theme.tin2 : theme.tin;
      context.fillRect(x, RULER - 6, 1, 6);
      context.fillStyle = frame % fps ? theme.ink2 : theme.ink;
      context.font = `${frame % fps ? 400 : 600} 11px ${theme.mono}`;
      context.fillText(String(shot.number(frame)), x + 4, RULER / 2);
    }
  }

  drawTrack(/** @type {CanvasRenderingContext2D} */ context, /** @type {import("./layout.js").Lane} */ lane) {
    const { shot } = this;
    const track = shot.tracks.find((each) => each.id === lane.id);
    const moved = this.preview?.kind === "clip" ? this.preview : null;
    for (const clip of shot.clips) {
      if (clip.track === lane.id && clip.id !== moved?.id) this.drawClip(context, clip, lane, Boolean(track?.muted));
    }
    if (moved && (moved.track || shot.clip(moved.id)?.track) === lane.id) {
      this.drawClip(
        context,
        { .../** @type {any} */ (shot.clip(moved.id)), ...moved.clip },
        lane,
        Boolean(track?.muted),
      );
    }
  }

  drawClip(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Clip} */ clip,
    /** @type {import("./layout.js").Lane} */ lane,
    /** @type {boolean} */ muted,
  ) {
    const { theme, view, width, shot } = this;
    const left = view.x(clip.start);
    const right = view.x(clip.start + clip.length);
    if (right < 0 || left > width) return;
    const isActive = this.selection?.kind === "clip" && this.selection.id === clip.id;
    const isVoice = clip.voice !== null;
    context.save();
    context.globalAlpha = muted ? 0.45 : 1;
    context.beginPath();
    context.roundRect(left + 0.5, lane.top + 0.5, Math.max(2, right - left - 1), lane.height - 1, 3);
    context.fillStyle = isActive ? theme.wash : theme.paper;
    context.fill();
    context.clip();
    this.drawSound(context, clip, lane, Math.max(0, left), Math.min(width, right));
    context.fillStyle = isVoice ? theme.ink : theme.ink2;
    context.font = `600 11.5px ${theme.sans}`;
    context.textAlign = "left";
    const name = shot.takes[String(clip.take)]?.name || "take";
    if (right - left > 30)
      context.fillText(
        `${name}${clip.gain ? `  ${clip.gain > 0 ? "+" : ""}${clip.gain} dB` : ""}${clip.slip ? gettext("  words moved") : ""}`,
        Math.max(left, 0) + 7,
        lane.top + 11,
        right - Math.max(left, 0) - 12,
      );
    context.restore();
    context.strokeStyle = isActive ? theme.rust : theme.tin2;
    context.lineWidth = isActive ? 2 : 1;
    context.beginPath();
    context.roundRect(left + 1, lane.top + 1, Math.max(2, right - left - 2), lane.height - 2, 3);
    context.stroke();
    this.drawFades(context, clip, lane, isActive);
  }

  drawSound(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Clip} */ clip,
    /** @type {import("./layout.js").Lane} */ lane,
    /** @type {number} */ from,
    /** @type {number} */ to,
  ) {
    const { view, theme } = this;
    const peaks = this.peaksOf(clip.take);
    const level = peaks.level(view.spanUs / this.width);
    if (level < 0) return;
    const top = lane.top + 18;
    const middle = (top + lane.top + lane.height) / 2;
    const scale = ((lane.top + lane.height - top) / 2 - 2) / peaks.loudest;
    context.fillStyle = clip.voice === null ? theme.waveSoft : theme.wave;
    for (let x = Math.floor(from); x < to; x += 1) {
      const at = view.timeAt(x) - clip.start;
      const fade = Math.min(
        1,
        clip.fade_in ? Math.max(0, at / clip.fade_in) : 1,
        clip.fade_out ? Math.max(0, (clip.length - at) / clip.fade_out) : 1,
      );
      const [low, high] = peaks.range(level, at + clip.in, view.timeAt(x + 1) - clip.start + clip.in);
      context.fillRect(x, middle - high * scale * fade - 0.4, 1, (high - low) * scale * fade + 0.8);
    }
  }

  drawFades(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {import("./model.js").Clip} */ clip,
    /** @type {import("./layout.js").Lane} */ lane,
    /** @type {boolean} */ isActive,
  ) {
    const { theme, view } = this;
    const bottom = lane.top + lane.height - 2;
    const ends = [
      [view.x(clip.start), view.x(clip.start + clip.fade_in)],
      [view.x(clip.start + clip.length), view.x(clip.start + clip.length - clip.fade_out)],
    ];
    for (const [edge, inner] of ends) {
      context.strokeStyle = theme.rust;
      context.lineWidth = 1.25;
      if (Math.abs(inner - edge) > 1) {
        context.beginPath();
        context.moveTo(edge, bottom);
        context.lineTo(inner, lane.top + 2);
        context.stroke();
      }
      if (!isActive || view.x(clip.start + clip.length) - view.x(clip.start) <= 40) continue;
      context.fillStyle = theme.sheet;
      context.beginPath();
      context.rect(inner - 4, lane.top + 2, 8, 8);
      context.fill();
      context.stroke();
    }
  }

  drawWords(/** @type {CanvasRenderingContext2D} */ context, /** @type {import("./layout.js").Lane} */ lane) {
    const { theme, view, width, shot } = this;
    context.font = `400 12px ${theme.sans}`;
    context.textAlign = "left";
    let free = -1;
    for (const word of shot.words) {
      const left = view.x(word.start);
      const right = view.x(word.end);
      if (right < 0 || left > width) continue;
      const ink = shot.character(word.speaker)?.ink;
      context.fillStyle = ink ? theme.speaker(ink) : theme.tin;
      context.fillRect(left, lane.top + lane.height - 3, Math.max(1, right - left - 1), 2);
      if (left < free) continue;
      context.fillStyle = theme.ink;
      context.fillText(word.text, left + 1, lane.top + lane.height / 2 - 1);
      free = left + context.measureText(word.text).width + 6;
    }
  }

  drawTurns(/** @type {CanvasRenderingContext2D} */ context, /** @type {import("./layout.js").Lane} */ lane) {
    const { theme, shot } = this;
    const character = shot.character(lane.id);
    if (!character) return;
    const held = this.preview?.kind === "turn" ? this.preview : null;
    for (const turn of shot.turnsOf(character)) {
      if (held && turn.clip === held.clip && turn.id === held.id) continue;
      const isActive =
        this.selection?.kind === "turn" && this.selection.clip === turn.clip && this.selection.turn === turn.id;
      this.drawTurn(context, turn, lane, theme.speaker(character.ink), isActive);
    }
    if (held && held.speaker === lane.id) this.drawTurn(context, held, lane, theme.speaker(character.ink), true);
    for (const tap of this.taps) if (tap.speaker === lane.id) this.drawTurn(context, tap, lane, theme.rust, false);
  }

  drawTurn(
    /** @type {CanvasRenderingContext2D} */ context,
    /** @type {{start: number, end: number}} */ turn,
    /** @type {import("./layout.js").Lane} */ lane,
    /** @type {string} */ colour,
    /** @type {boolean} */ isActive,
  ) {
    const { view, width, theme } = this;
    const left = view.x(turn.start);
    const right = view.x(turn.end);
    if (right < 0 || left > width) return;
    context.fillStyle = colour;
    context.globalAlpha = isActive ? 1 : 0.72;
    context.beginPath();
    context.roundRect(left, lane.top + 5, Math.max(2, right - left), lane.height - 10, 3);
    context.fill();
    context.globalAlpha = 1;
    if (!isActive) return;
    context.strokeStyle = theme.rust;
    context.lineWidth = 2;
    context.stroke();
    context.fillStyle = theme.sheet;
    for (const x of [left + 3, right - 5])
      if (right - left > 14) context.fillRect(x, lane.top + 10, 2, lane.height - 20);
  }

  /** Draw the end of the shot. */
  drawEnd(/** @type {CanvasRenderingContext2D} */ context) {
    const { theme, view, width, shot } = this;
    const x = view.x(shot.rate.firstUs(shot.durationUs ? shot.frames : 0));
    if (x > width) return;
    context.fillStyle = theme.paper;
    context.globalAlpha = 0.6;
    context.fillRect(x, RULER, width - x, heightOf(this.lanes) - RULER);
    context.globalAlpha = 1;
    context.fillStyle = theme.tin;
    context.fillRect(x, 4, 1.5, heightOf(this.lanes) - 4);
  }

  drawPlayhead(/** @type {CanvasRenderingContext2D} */ context) {
    const x = this.view.x(this.shot.rate.firstUs(this.transport.frame.value));
    context.fillStyle = this.theme.rust;
    context.fillRect(x - 0.75, 0, 1.5, heightOf(this.lanes));
    context.beginPath();
    context.moveTo(x - 5, 0);
    context.lineTo(x + 5, 0);
    context.lineTo(x, 8);
    context.fill();
  }
}
