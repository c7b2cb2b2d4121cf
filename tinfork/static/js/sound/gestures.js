/** The pointer on the lanes: a drag previews an edit, its release sends it. */
import { drag } from "../lib/drag.js";
import { hitAt } from "./layout.js";

const THRESHOLD = 4;

export class Gestures {
  /**
   * @param {import("./lanes.js").Lanes} lanes
   * @param {{send: SendEdit,
   *   select: (selection: import("./model.js").Selection) => void, what: () => "both" | "sound" | "reading"}} does
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(lanes, does, scope) {
    this.lanes = lanes;
    this.does = does;
    scope.listen(lanes.canvas, "pointerdown", (event) => this.press(event));
    scope.listen(lanes.canvas, "pointermove", (event) => this.hover(event));
    scope.listen(lanes.canvas, "wheel", (event) => this.wheel(event), { passive: false });
  }

  /** @param {MouseEvent} event */
  point(event) {
    const box = this.lanes.canvas.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  }

  hit(/** @type {MouseEvent} */ event) {
    const { x, y } = this.point(event);
    return hitAt(this.lanes.shot, this.lanes.lanes, this.lanes.view, x, y, this.lanes.selection);
  }

  hover(/** @type {PointerEvent} */ event) {
    if (event.buttons) return;
    const hit = this.hit(event);
    const sideways = hit.edge
      ? "ew-resize"
      : hit.kind === "clip" || hit.kind === "turn"
        ? "grab"
        : hit.kind === "turns"
          ? "copy"
          : "default";
    this.lanes.canvas.style.cursor = sideways;
  }

  wheel(/** @type {WheelEvent} */ event) {
    event.preventDefault();
    const { view } = this.lanes;
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      view.moveTo(view.startUs + ((event.deltaX || event.deltaY) / this.lanes.width) * view.spanUs);
    } else {
      view.zoom(event.deltaY > 0 ? 1.2 : 1 / 1.2, this.point(event).x);
    }
    this.lanes.redraw();
  }

  press(/** @type {PointerEvent} */ event) {
    if (event.button !== 0) return;
    const hit = this.hit(event);
    if (hit.kind === "clip") this.does.select({ kind: "clip", id: /** @type {number} */ (hit.id) });
    else if (hit.kind === "turn")
      this.does.select({
        kind: "turn",
        clip: /** @type {number} */ (hit.clip),
        turn: /** @type {number} */ (hit.turn),
      });
    else if (hit.kind !== "ruler") this.does.select(null);
    if (hit.kind === "clip") this.dragClip(event, hit);
    else if (hit.kind === "turn") this.dragTurn(event, hit);
    else if (hit.kind === "turns") this.dragNew(event, hit);
    else this.scrub(event);
  }

  /** The playhead follows the pointer. */
  scrub(/** @type {PointerEvent} */ event) {
    const { shot, view, transport } = this.lanes;
    drag(this.lanes.canvas, event, (move) =>
      transport.seek(shot.rate.frameAt(Math.max(0, Math.round(view.timeAt(this.point(move).x))))),
    );
  }

  /**
   * Follow a drag past its threshold; calls `done` with the last move, unless it was cancelled or never began.
   * @param {PointerEvent} event
   * @param {(move: PointerEvent, byUs: number) => void} follow
   * @param {() => void} done
   */
  follow(event, follow, done) {
    const { canvas, view } = this.lanes;
    const from = this.point(event);
    let begun = false;
    drag(canvas, event, (move) => {
      const { x, y } = this.point(move);
      if (!begun && Math.hypot(x - from.x, y - from.y) < THRESHOLD) return;
      begun = true;
      follow(move, ((x - from.x) / view.width) * view.spanUs);
      this.lanes.redraw();
    });
    const end = (/** @type {Event} */ last) => {
      canvas.removeEventListener("pointerup", end);
      canvas.removeEventListener("pointercancel", end);
      if (begun && last.type === "pointerup") done();
      this.lanes.preview = null;
      this.lanes.redraw();
    };
    canvas.addEventListener("pointerup", end);
    canvas.addEventListener("pointercancel", end);
  }

  /**
   * @param {PointerEvent} event
   * @param {import("./layout.js").Hit} hit
   */
  dragClip(event, hit) {
    const { lanes } = this;
    const { shot } = lanes;
    const clip = /** @type {import("./model.js").Clip} */ (shot.clip(/** @type {number} */ (hit.id)));
    const last = clip.start + clip.length;
    /** @type {ShotEdit | null} */
    let edit = null;
    const show = (/** @type {Partial<import("./model.js").Clip>} */ changed, track = clip.track) =>
      (lanes.preview = { kind: "clip", id: clip.id, track, clip: changed });
    this.follow(
      event,
      (move, byUs) => {
        if (hit.edge === "start") {
          const frame = shot.nearestFrame(Math.min(clip.start + byUs, last - 20_000));
          const start = Math.max(shot.rate.firstUs(frame), clip.start - clip.in, 0);
          show({ start, in: clip.in + start - clip.start, length: last - start });
          edit = ["trim", { clip: clip.id, start: frame }];
        } else if (hit.edge === "end") {
          const frame = shot.nearestFrame(Math.max(last + byUs, clip.start + 20_000));
          const end = Math.min(shot.rate.firstUs(frame), clip.start + clip.take_length - clip.in);
          show({ length: end - clip.start });
          edit = ["trim", { clip: clip.id, end: frame }];
        } else if (hit.edge) {
          const into = hit.edge === "fade_in" ? clip.fade_in + byUs : clip.fade_out - byUs;
          const other = hit.edge === "fade_in" ? clip.fade_out : clip.fade_in;
          const length = Math.round(Math.max(0, Math.min(into, clip.length - other)));
          show({ [hit.edge]: length });
          edit = [
            "fade",
            {
              clip: clip.id,
              fade_in_us: hit.edge === "fade_in" ? length : clip.fade_in,
              fade_out_us: hit.edge === "fade_out" ? length : clip.fade_out,
            },
          ];
        } else {
          const frame = shot.nearestFrame(clip.start + byUs);
          const under = lanes.lanes.find(
            (lane) =>
              lane.kind === "track" && this.point(move).y >= lane.top && this.point(move).y < lane.top + lane.height,
          );
          const kin =
            under &&
            shot.tracks.find((track) => track.id === under.id)?.kind ===
              shot.tracks.find((track) => track.id === clip.track)?.kind;
          const track = under && kin ? under.id : clip.track;
          const what = this.does.what();
          show({ start: shot.rate.firstUs(frame) }, track);
          edit = ["move", what === "both" ? { clip: clip.id, frame, what, track } : { clip: clip.id, frame, what }];
        }
      },
      () => edit && this.does.send(...edit),
    );
  }

  /**
   * @param {PointerEvent} event
   * @param {import("./layout.js").Hit} hit
   */
  dragTurn(event, hit) {
    const { lanes } = this;
    const turn = /** @type {import("./model.js").Turn} */ (
      lanes.shot.turn(/** @type {number} */ (hit.clip), /** @type {number} */ (hit.turn))
    );
    const known = { clip: turn.clip, turn: turn.id };
    /** @type {ShotEdit | null} */
    let edit = null;
    this.follow(
      event,
      (move, byUs) => {
        const lane = lanes.lanes.find(
          (each) =>
            each.kind === "turns" && this.point(move).y >= each.top && this.point(move).y < each.top + each.height,
        );
        const start = hit.edge === "end" ? turn.start : Math.max(0, Math.min(turn.start + byUs, turn.end - 40_000));
        const end = hit.edge === "start" ? turn.end : Math.max(turn.end + byUs, turn.start + 40_000);
        if (hit.edge) {
          lanes.preview = { kind: "turn", ...turn, start, end };
          edit = ["turn_trim", { ...known, start_us: Math.round(start), end_us: Math.round(end) }];
        } else if (lane && lane.id !== turn.speaker) {
          lanes.preview = { kind: "turn", ...turn, speaker: lane.id };
          edit = ["turn_give", { ...known, speaker: String(lane.id) }];
        } else {
          lanes.preview = { kind: "turn", ...turn, start: turn.start + byUs, end: turn.end + byUs };
          edit = [
            "turn_trim",
            { ...known, start_us: Math.round(Math.max(0, turn.start + byUs)), end_us: Math.round(turn.end + byUs) },
          ];
        }
      },
      () => edit && this.does.send(...edit),
    );
  }

  /**
   * Drag a new turn.
   * @param {PointerEvent} event
   * @param {import("./layout.js").Hit} hit
   */
  dragNew(event, hit) {
    const { lanes } = this;
    const from = lanes.view.timeAt(this.point(event).x);
    /** @type {EditParameters["turn_put"] | null} */
    let edit = null;
    this.follow(
      event,
      (_move, byUs) => {
        const [start, end] = [Math.max(0, Math.min(from, from + byUs)), Math.max(from, from + byUs)];
        lanes.preview = { kind: "turn", clip: 0, id: 0, speaker: hit.id, start, end };
        edit = { speaker: String(hit.id), start_us: Math.round(start), end_us: Math.round(end) };
      },
      () => edit && this.does.send("turn_put", edit),
    );
  }
}
