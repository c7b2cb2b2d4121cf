/**
 * The pointer on the Lens: dragging ends of words, phonemes and holds, moving and retyping words, choosing phonemes.
 */
import { drag } from "../lib/drag.js";
import { listenForLongPress } from "../lib/longpress.js";
import { pulled } from "./predict.js";
import { predictedWords } from "./predictwords.js";
import { named } from "./wordwork.js";

/** The reach of the pointer around an end (pixels). */
const NEAR = 5;

/**
 * @typedef {{kind: "word" | "sound" | "hold" | "key", at: number, edge: "" | "start" | "end", character?:
 * import("./model.js").Character}} Grip
 */

export class LensPointer {
  /**
   * @param {{lens: import("./lens.js").Lens, shot: import("./model.js").Shot, edits: import("./edits.js").Edits,
   *   transport: import("../lib/transport.js").Transport, selection: import("./selection.js").Selection,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>, words: import("./wordwork.js").WordWork}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(parts, scope) {
    this.parts = parts;
    this.lens = parts.lens;
    const { canvas } = parts.lens;
    scope.listen(canvas, "pointerdown", (event) => this.press(event));
    scope.listen(canvas, "pointermove", (event) => this.hover(event));
    scope.listen(canvas, "dblclick", (event) => this.twice(event));
    listenForLongPress(canvas, scope);
    scope.add(
      parts.selection.range.follow((range) => {
        parts.lens.selected = range;
        parts.lens.redraw();
      }),
    );
  }

  point(/** @type {MouseEvent} */ event) {
    const box = this.lens.canvas.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  }

  /** The item under a point. @returns {Grip | null} */
  gripAt(/** @type {number} */ x, /** @type {number} */ y) {
    const { lens, parts } = this;
    const { shot } = parts;
    const lane = lens.laneAt(y);
    if (!lane || lane.kind === "sound") return null;
    const near = (NEAR / lens.width) * lens.view.spanUs;
    const time = lens.view.timeAt(x);
    if (lane.kind === "motion") {
      const keys = lens.curve?.keys || [];
      const at = keys.findIndex((key) => Math.abs(shot.rate.firstUs(key.frame) - time) <= near * 1.4);
      return at < 0 ? null : { kind: "key", at, edge: "start" };
    }
    if (lane.kind === "holds" && lane.character) {
      const { rate } = shot;
      const { holds } = lane.character;
      const found = shot.between(
        holds.map((h) => ({ ...h, start: rate.firstUs(h.start), end: rate.firstUs(h.end) })),
        time - near,
        time + near,
      );
      const end = found.find((h) => Math.abs(h.end - time) <= near && rate.frameAt(h.end) < shot.frames);
      const at = holds.findIndex((h) =>
        end ? h.start === rate.frameAt(end.start) : rate.firstUs(h.start) <= time && time < rate.firstUs(h.end),
      );
      return at < 0 ? null : { kind: "hold", at, edge: end ? "end" : "", character: lane.character };
    }
    const items = lane.kind === "words" ? shot.words : shot.phonemes;
    const kind = lane.kind === "words" ? "word" : "sound";
    const found = shot.between(/** @type {Array<{start: number, end: number}>} */ (items), time - near, time + near);
    /** @type {Grip | null} */
    let grip = null;
    for (const item of found) {
      // A narrow box keeps a middle part by which it can be dragged.
      const reach = Math.min(near, (item.end - item.start) / 3);
      const at = /** @type {any[]} */ (items).indexOf(item);
      const isInside = item.start <= time && time < item.end;
      const edge = Math.abs(item.end - time) <= reach ? "end" : Math.abs(item.start - time) <= reach ? "start" : "";
      // Where two touch, take the end of the one under the pointer.
      if ((edge && !grip) || isInside) grip = { kind, at, edge };
    }
    return grip;
  }

  hover(/** @type {PointerEvent} */ event) {
    if (event.buttons) return;
    const { x, y } = this.point(event);
    const grip = this.parts.edits.may ? this.gripAt(x, y) : null;
    this.lens.canvas.style.cursor = !grip ? "" : grip.edge ? "ew-resize" : grip.kind === "word" ? "grab" : "";
  }

  press(/** @type {PointerEvent} */ event) {
    if (event.button !== 0) return;
    const { x, y } = this.point(event);
    const { edits, activeCharacter } = this.parts;
    const grip = this.gripAt(x, y);
    if (grip?.character) activeCharacter.value = grip.character;
    if (!edits.may || !grip || (grip.kind !== "word" && !grip.edge)) this.scrub(event);
    else if (grip.kind === "key") this.moveKey(event, grip);
    else if (grip.kind === "hold") this.stretch(event, grip);
    else this.move(event, grip);
  }

  /** The playhead follows, and each frame is played. */
  scrub(/** @type {PointerEvent} */ event) {
    const { transport, shot, selection } = this.parts;
    if (!event.shiftKey) selection.clear();
    drag(this.lens.canvas, event, (move) => {
      transport.scrub(
        shot.clampFrame(shot.rate.frameAt(Math.max(0, Math.round(this.lens.view.timeAt(this.point(move).x))))),
      );
    });
  }

  stretch(/** @type {PointerEvent} */ event, /** @type {Grip} */ grip) {
    const { shot, edits } = this.parts;
    const character = /** @type {import("./model.js").Character} */ (grip.character);
    const hold = character.holds[grip.at];
    const kept = character.holds;
    let to = hold.end;
    drag(
      this.lens.canvas,
      event,
      (move) => {
        to = Math.max(
          hold.start + 1,
          Math.min(shot.frames, Math.round(shot.rate.position(this.lens.view.timeAt(this.point(move).x)))),
        );
        character.holds = pulled(kept, grip.at, to);
        this.lens.redraw();
      },
      () => {
        character.holds = kept;
        if (to !== hold.end) edits.send("stretch", { speaker: String(character.id), frame: hold.start, to });
        this.lens.redraw();
      },
    );
  }

  /** Drag a key of motion to another frame. */
  moveKey(/** @type {PointerEvent} */ event, /** @type {Grip} */ grip) {
    const { shot, edits, transport } = this.parts;
    const curve = this.lens.curve;
    if (!curve) return;
    const { frame } = curve.keys[grip.at];
    let to = frame;
    drag(
      this.lens.canvas,
      event,
      (move) => {
        to = shot.clampFrame(Math.round(shot.rate.position(Math.max(0, this.lens.view.timeAt(this.point(move).x)))));
        transport.seek(to);
      },
      () => {
        if (to !== frame)
          edits.send("key_move", {
            speaker: String(curve.character.id),
            part: curve.part,
            first: frame,
            last: frame,
            by: to - frame,
          });
      },
    );
  }

  /** Drag a word, or an end of a word or phoneme; Alt leaves a gap, Shift moves the whole line. */
  move(/** @type {PointerEvent} */ event, /** @type {Grip} */ grip) {
    const { shot, transport, edits } = this.parts;
    const { lens } = this;
    const from = this.point(event).x;
    const word = grip.kind === "word" ? shot.words[grip.at] : shot.words[shot.phonemes[grip.at].word];
    let isMoved = false;
    /** @type {ShotEdit | null} */
    let command = null;
    drag(
      lens.canvas,
      event,
      (move) => {
        const { x } = this.point(move);
        if (!isMoved && Math.abs(x - from) < 3) return;
        isMoved = true;
        const time = lens.view.timeAt(x);
        const where = named(word);
        if (grip.edge)
          command = [
            "edge",
            {
              ...where,
              edge: grip.edge,
              at_us: Math.max(0, Math.round(time)),
              gap: move.altKey,
              ...(grip.kind === "sound" ? { sound: shot.phonemes[grip.at].id } : {}),
            },
          ];
        else
          command = [
            "slide",
            {
              ...where,
              by_us: Math.round(((x - from) / lens.width) * lens.view.spanUs),
              what: move.shiftKey ? "line" : "word",
            },
          ];
        lens.preview = predictedWords(shot, command[0], command[1] || {});
        lens.redraw();
      },
      () => {
        if (command) edits.send(...command);
        else transport.seek(shot.rate.frameAt(Math.max(0, Math.round(lens.view.timeAt(from)))));
        lens.preview = null;
        lens.redraw();
      },
    );
  }

  /** Double click: retype a word, or choose another phoneme. */
  twice(/** @type {MouseEvent} */ event) {
    const { x, y } = this.point(event);
    const { shot, words, selection } = this.parts;
    const grip = this.gripAt(x, y);
    if (grip?.kind === "word") words.type(shot.words[grip.at]);
    else if (grip?.kind === "sound") words.choose(shot.phonemes[grip.at]);
    else if (this.lens.laneAt(y)?.kind === "words" && selection.range.value) words.add();
  }
}
