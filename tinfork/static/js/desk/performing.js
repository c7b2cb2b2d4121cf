/**
 * Performing: during playback, the pressed pointer moves the active part, and its path becomes keys. Each time is a
 * take; any take can be chosen, and mixed with the keys that were there before.
 */

import { BEATS, CountIn, showBeat } from "../lib/countin.js";
import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";
import { named, poseOn } from "../lib/pose.js";
import { Signal } from "../lib/signal.js";

/** @typedef {import("../lib/pose.js").Pose} Pose */
/** @typedef {import("../lib/pose.js").Key} Key */
/** @typedef {Record<string, number>} Sample */
/** @typedef {{path: Sample[], speed: number}} Take */
/**
 * @typedef {{before: Key[], takes: Take[], kept: number}} Takes the keys before the first take, the takes, the one that
 * is laid down
 */
/**
 * The active part, as `Moving` has it.
 * @typedef {{figure: import("./stage.js").Stage["figures"][number], part: string, pass: string, pose: Pose, keys: Key[], frame: number,
 *   isOn: Signal<boolean>, posed: (from: Pose, at: PointerEvent, x: number, y: number, spun: number) => Pose,
 *   send: (name: string, parameters: Record<string, any>) => void,
 *   parts: {stage: import("./stage.js").Stage, shot: import("./model.js").Shot, edits: import("./edits.js").Edits,
 *   transport: import("../lib/transport.js").Transport}}} Driven
 */

/** The most samples of a take, and takes of a pass. */
const MOST_SAMPLES = 20_000;
const MOST_TAKES = 12;
/** The lag of the hand (microseconds), as removed by core/motion/performing.py. */
const LAG_US = 100_000;

export class Performing {
  /**
   * @param {Driven} moving
   * @param {HTMLElement} form
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(moving, form, scope) {
    this.moving = moving;
    this.form = form;
    this.isLive = new Signal(false);
    /** By pass. @type {Map<string, Takes>} */
    this.passes = new Map();
    /** Whether the edit being sent is one of the takes. */
    this.isLaying = false;
    const { transport } = moving.parts;
    this.counting = new CountIn(() => transport.hearing?.open() || null);
    transport.lead = (go) => this.lead(go);
    /** The turn by the wheel while performing (degrees). */
    this.spun = 0;
    scope.listen(moving.parts.stage.picture, "wheel", (event) => this.spin(/** @type {WheelEvent} */ (event)), {
      passive: false,
    });
    scope.listen(this.blend, "change", () => this.lay());
    scope.add(() => this.counting.cancel());
    scope.add(moving.parts.edits.made.follow(({ name, parameters }) => this.notice(name, parameters)));
    scope.add(this.isLive.follow(() => this.show()));
  }

  get blend() {
    return /** @type {HTMLInputElement} */ (this.form.querySelector('[name="blend"]'));
  }

  get takes() {
    return this.passes.get(this.moving.pass);
  }

  /** Any other edit of a column ends the choice between its takes, since the state before them has changed. */
  notice(/** @type {string} */ name, /** @type {Record<string, any>} */ { speaker, part }) {
    if (this.isLaying || !this.passes.size) return;
    if (name.startsWith("key_")) this.passes.delete(`${speaker} ${part}`);
    else if (["act", "follow_film", "undo", "redo", "others"].includes(name)) this.passes.clear();
    this.show();
  }

  toggle() {
    this.isLive.value = !this.isLive.value;
  }

  /** Count in before playing, if wanted. Pressing play again during the count stops it. */
  lead(/** @type {() => void} */ go) {
    if (this.counting.isCounting) {
      this.counting.cancel();
      showBeat(0);
      return;
    }
    const counts = /** @type {HTMLInputElement} */ (this.form.querySelector('[name="count_in"]')).checked;
    if (!this.isLive.value || !counts || !this.moving.isOn.value) go();
    else this.counting.start(BEATS, showBeat, go);
  }

  /** The takes of the active pass. */
  show() {
    this.form.hidden = !this.isLive.value;
    this.form.parentElement
      ?.querySelector('[data-key="live"]')
      ?.setAttribute("aria-pressed", String(this.isLive.value));
    const group = /** @type {HTMLElement} */ (this.form.querySelector('[data-part="takes"]'));
    const { takes } = this;
    group.replaceChildren(
      ...(takes?.takes || []).map((_, n) => {
        const button = document.createElement("button");
        button.type = "button";
        button.dataset.take = String(n);
        button.textContent = String(n + 1);
        button.title = gettext("Use take {value}", { value: n + 1 });
        button.setAttribute("aria-pressed", String(n === takes?.kept));
        return button;
      }),
    );
    for (const label of [group.parentElement, this.blend.parentElement]) label?.toggleAttribute("hidden", !takes);
  }

  keep(/** @type {number} */ take) {
    if (!this.takes) return;
    this.takes.kept = take;
    this.lay();
  }

  /** Choose a take; it replaces the keys of the others. */
  lay(/** @type {Take[]} */ laid = this.takes?.takes || []) {
    const { takes } = this;
    if (!takes) return;
    const { shot } = this.moving.parts;
    const { path, speed } = takes.takes[takes.kept];
    const frames = laid
      .flatMap((take) => [take.path[0].at_us - LAG_US, take.path[take.path.length - 1].at_us])
      .map((us) => shot.clampFrame(shot.rate.frameAt(Math.max(0, us))));
    const [first, last] = [Math.min(...frames), Math.max(...frames)];
    const keys = takes.before
      .filter((key) => first <= key.frame && key.frame <= last)
      .map(({ frame, pose, way, step, by }) => ({ frame, way, step, by, ...named(pose) }));
    const over = laid.length ? { over: { first, last, keys } } : {};
    this.isLaying = true;
    this.moving.send("key_perform", { path, speed, blend: Number(this.blend.value), ...over });
    this.isLaying = false;
    this.show();
  }

  /** The rounds of a looped path: a new one begins when time goes back. */
  static rounds(/** @type {Sample[]} */ path) {
    /** @type {Sample[][]} */
    const out = [];
    for (const [n, one] of path.entries()) {
      if (!n || one.at_us < path[n - 1].at_us) out.push([]);
      out[out.length - 1].push(one);
    }
    return out.filter((round) => round.length > 1);
  }

  /** Send the performance; an incomplete last round is dropped in favour of the complete one before it. */
  take(/** @type {Sample[]} */ path, /** @type {number} */ speed) {
    const rounds = Performing.rounds(path);
    if (!rounds.length) return;
    const { moving } = this;
    const earlier = this.takes || { before: moving.keys, takes: [], kept: 0 };
    const laid = [...earlier.takes];
    const long = (/** @type {Sample[]} */ round) => round[round.length - 1].at_us - round[0].at_us;
    const longest = Math.max(...rounds.map(long));
    const takes = [...earlier.takes, ...rounds.map((round) => ({ path: round, speed }))].slice(-MOST_TAKES);
    const best = takes.length - rounds.length + rounds.findLastIndex((round) => long(round) > longest / 2);
    this.passes.set(moving.pass, { before: earlier.before, takes, kept: Math.max(0, best) });
    this.lay(laid);
  }

  spin(/** @type {WheelEvent} */ event) {
    if (!this.isDriven) return;
    event.preventDefault();
    this.spun += event.deltaY / 10;
  }

  get isDriven() {
    return this.isLive.value && (this.moving.parts.transport.playing.value || this.counting.isCounting);
  }

  /** The pointer was pressed. */
  begin(/** @type {PointerEvent} */ event) {
    const { moving } = this;
    const { figure, part } = moving;
    // Each take starts at the pose before the first one.
    const from = this.takes ? poseOn(this.takes.before, moving.frame) : moving.pose;
    const { transport, stage, edits } = moving.parts;
    const [x, y] = [event.clientX, event.clientY];
    this.spun = 0;
    /** @type {Sample[]} */
    const path = [];
    let now = event;
    const speed = transport.speed.value;
    const follow = () => {
      const pose = moving.posed(from, now, now.clientX - x, now.clientY - y, this.spun);
      figure.dragged[part] = pose;
      figure.move(moving.frame);
      const at_us = Math.max(0, Math.round(transport.audio.currentTime * 1e6));
      if (transport.playing.value && path.length < MOST_SAMPLES) path.push({ at_us, ...named(pose) });
      ticking = requestAnimationFrame(follow);
    };
    let ticking = requestAnimationFrame(follow);
    drag(
      stage.picture,
      event,
      (move) => (now = move),
      () => {
        cancelAnimationFrame(ticking);
        delete figure.dragged[part];
        this.take(path, speed);
        figure.move(moving.frame);
        edits.draw();
      },
    );
  }
}
