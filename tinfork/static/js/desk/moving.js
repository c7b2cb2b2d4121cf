/**
 * Moving a head, a face, a mouth or another part on the Stage: the pointer and the fields set keys of the active column
 * of motion at the playhead.
 */
import { mirroredBend } from "../lib/bend.js";
import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";
import { bendOf, clampPose, FIELDS, keyAt, NEUTRAL, named, poseMatrix, poseOn } from "../lib/pose.js";
import { Signal } from "../lib/signal.js";
import { Cage } from "./cage.js";
import { Performing } from "./performing.js";

/** @typedef {import("../lib/pose.js").Pose} Pose */

const short = (/** @type {Pose} */ pose) => clampPose(pose).map((value) => Math.round(value * 100) / 100);

export class Moving {
  /**
   * @param {HTMLFormElement} form
   * @param {{stage: import("./stage.js").Stage, shot: import("./model.js").Shot, edits: import("./edits.js").Edits,
   *   activeCharacter: Signal<import("./model.js").Character>, transport: import("../lib/transport.js").Transport,
   *   selection: import("./selection.js").Selection, said: (text: string) => void, changed: () => void}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(form, parts, scope) {
    this.form = form;
    this.parts = parts;
    this.isOn = new Signal(false);
    /** The active part. */
    this.part = "head";
    /** Locked passes, by character and part. @type {Set<string>} */
    this.locked = new Set();
    /** The only pass that is shown, if one is soloed. */
    this.solo = "";
    /** The seed for proposals of acting. */
    this.seed = 1;
    /** @type {Array<{frame: number, pose: Pose, way: string, step: number}>} */
    this.copied = [];
    /** Whether the pointer performs during playback. */
    this.performing = new Performing(
      this,
      /** @type {HTMLElement} */ (form.querySelector('[data-part="live"]')),
      scope,
    );
    this.cage = new Cage(this);
    const { stage, transport } = parts;
    scope.listen(stage.picture, "pointerdown", (event) => this.press(/** @type {PointerEvent} */ (event)));
    scope.listen(form, "change", (event) => this.type(/** @type {HTMLInputElement} */ (event.target)));
    scope.listen(form, "submit", (event) => event.preventDefault());
    scope.listen(form, "click", (event) => this.choose(/** @type {Element} */ (event.target)));
    scope.listen(form, "keydown", (event) => {
      if (/** @type {KeyboardEvent} */ (event).key === "Escape") this.turn(false);
    });
    this.showDials();
    scope.add(
      parts.activeCharacter.follow((character) => {
        if (character.of) this.part = String(character.id);
        this.show();
      }),
    );
    scope.add(transport.frame.follow(() => this.isOn.value && this.fill()));
    scope.add(stage.isClose.follow(() => this.cage.show()));
    // The size of the fields changes the room for the picture.
    scope.onResize(form, () => this.isOn.value && stage.layOut());
  }

  get figure() {
    return this.parts.stage.activeFigure;
  }

  get frame() {
    return this.parts.transport.frame.value;
  }

  get keys() {
    return this.parts.shot.keysOf(this.figure.character.id, this.part);
  }

  /** The key on the playhead's frame. */
  get key() {
    return this.keys.find((key) => key.frame === this.frame);
  }

  /** The pose of the active part at the playhead, even if its pass is hidden. */
  get pose() {
    return this.figure.dragged[this.part] || poseOn(this.keys, this.frame);
  }

  /** The parts of the active character that can move, with their names. @returns {Array<[string, string]>} */
  get partsOf() {
    const others = [...this.figure.layers.keys()].filter((column) => column.of);
    return [
      ["head", "head"],
      ["face", "face"],
      ["mouth", "mouth"],
      .../** @type {Array<[string, string]>} */ (
        others.map((column) => [String(column.id), column.name.split(", ").at(-1) || column.name])
      ),
    ];
  }

  /** Start and stop moving. */
  turn(on = !this.isOn.value) {
    if (!this.parts.edits.may) return;
    this.parts.stage.root.dataset.moving = String(on);
    this.form.hidden = !on;
    this.isOn.value = on;
    this.cage.show();
    document.querySelector('[data-do="move"]')?.setAttribute("aria-pressed", String(on));
    this.show();
    this.parts.stage.layOut();
  }

  showDials() {
    for (const dial of /** @type {NodeListOf<HTMLInputElement>} */ (this.form.querySelectorAll("[data-kind]"))) {
      /** @type {HTMLOutputElement} */ (dial.nextElementSibling).value = dial.value;
    }
  }

  /** Update the list of parts and the active one. */
  show() {
    if (!this.isOn.value) return;
    if (!this.partsOf.some(([part]) => part === this.part)) this.part = "head";
    const group = /** @type {HTMLElement} */ (this.form.querySelector('[data-part="parts"]'));
    const hadFocus = group.contains(document.activeElement);
    group.replaceChildren(
      ...this.partsOf.map(([part, name]) => {
        const button = document.createElement("button");
        button.type = "button";
        button.dataset.moves = part;
        button.setAttribute("aria-pressed", String(part === this.part));
        const { length } = this.parts.shot.keysOf(this.figure.character.id, part);
        button.textContent = length ? `${name} ${length}` : name;
        const note = this.noteOn(part);
        button.title = [length ? `${length} keys` : gettext("No keys yet"), note].filter(Boolean).join(": ");
        button.classList.toggle("noted-pass", Boolean(note));
        button.classList.toggle("hidden-pass", this.figure.hidden.has(part));
        button.classList.toggle("locked-pass", this.isPassLocked(part));
        return button;
      }),
    );
    if (hadFocus) /** @type {HTMLElement | null} */ (group.querySelector('[aria-pressed="true"]'))?.focus();
    const states = { hide: this.figure.hidden.has(this.part), solo: this.solo === this.pass, lock: this.isLocked };
    for (const [name, on] of Object.entries(states))
      this.form.querySelector(`[data-pass="${name}"]`)?.setAttribute("aria-pressed", String(on));
    this.fill();
    this.performing.show();
    this.parts.changed();
  }

  get pass() {
    return `${this.figure.character.id} ${this.part}`;
  }

  /** The note about a pass of the active character. */
  noteOn(/** @type {string} */ part) {
    return this.parts.shot.passNotes[String(this.figure.character.id)]?.[part] || "";
  }

  nameOf(/** @type {string} */ part) {
    return this.partsOf.find(([one]) => one === part)?.[1] || part;
  }

  /** Toggle whether the active pass is hidden, soloed or locked. */
  mark(/** @type {"hide" | "solo" | "lock"} */ what) {
    const { figure, part } = this;
    const turn = (/** @type {Set<string>} */ set, /** @type {string} */ one) => void (set.delete(one) || set.add(one));
    if (what === "lock") turn(this.locked, this.pass);
    else if (what === "hide") turn(figure.hidden, part);
    else {
      this.solo = this.solo === this.pass ? "" : this.pass;
      for (const other of this.parts.stage.figures) {
        other.hidden = new Set(
          this.solo ? [...other.parts].filter((one) => `${other.character.id} ${one}` !== this.solo) : [],
        );
        other.move(this.frame);
      }
    }
    figure.move(this.frame);
    this.show();
  }

  /** Whether the active pass is locked. */
  get isLocked() {
    return this.isPassLocked(this.part);
  }

  /** The same for any pass of the active character. */
  isPassLocked(/** @type {string} */ part) {
    return this.locked.has(`${this.figure.character.id} ${part}`);
  }

  field(/** @type {string} */ name) {
    return /** @type {HTMLInputElement} */ (this.form.elements.namedItem(name));
  }

  /** Update the fields for the playhead's frame. */
  fill() {
    const { pose } = this;
    FIELDS.forEach((name, n) => {
      if (document.activeElement !== this.field(name)) this.field(name).value = String(Math.round(pose[n] * 100) / 100);
    });
    const at = this.keys[Math.max(0, keyAt(this.keys, this.frame))];
    if (document.activeElement !== this.field("note")) this.field("note").value = this.noteOn(this.part);
    this.field("way").value = at?.way || "ease";
    this.field("step").value = String(at?.step || 1);
    const remove = /** @type {HTMLButtonElement} */ (this.form.querySelector('[data-key="remove"]'));
    remove.disabled = !this.key;
    const set = /** @type {HTMLElement} */ (this.form.querySelector('[data-key="set"]'));
    set.textContent = this.key ? "◆ Key" : gettext("◇ Set key");
    this.cage.show();
    set.title = this.key?.by ? gettext("Proposed: {by}", { by: this.key.by }) : gettext("Set a key here");
  }

  /** @param {string} name @param {Record<string, any>} parameters */
  send(name, parameters) {
    if (this.isLocked) {
      this.parts.said(
        gettext("{name}’s {part} is locked. Unlock it to change it.", {
          name: this.figure.character.name,
          part: this.nameOf(this.part),
        }),
      );
      return;
    }
    const edit = /** @type {any} */ ([
      name,
      { speaker: String(this.figure.character.id), part: this.part, ...parameters },
    ]);
    // The prediction updates the fields, too; after a refusal they show the current values.
    this.parts.edits.send(.../** @type {ShotEdit} */ (edit));
    this.fill();
  }

  /** Set a key at the playhead. */
  set(/** @type {Pose} */ pose) {
    this.send("key_set", { frame: this.frame, ...named(short(pose)) });
  }

  setAsIs() {
    this.set(this.pose);
  }

  /** The frames of an edit of keys: the selection, else the playhead's frame. */
  get span() {
    const range = this.parts.selection.range.value;
    return range ? { first: range.first, last: range.end - 1 } : { first: this.frame, last: this.frame };
  }

  remove() {
    this.send("key_remove", this.span);
  }

  nudge(/** @type {number} */ by) {
    const { span } = this;
    const range = this.parts.selection.range.value;
    this.send("key_move", { ...span, by });
    if (range) this.parts.selection.set(range.first + by, range.end + by, range.who);
    else this.parts.transport.seek(this.frame + by);
  }

  copy() {
    const { first, last } = this.span;
    const keys = this.keys.filter((key) => first <= key.frame && key.frame <= last);
    this.copied = keys.map(({ frame, pose, way, step }) => ({ frame: frame - keys[0].frame, pose, way, step }));
  }

  paste() {
    if (!this.copied.length) return;
    const keys = this.copied.map(({ frame, pose, way, step }) => ({ frame, way, step, ...named(pose) }));
    this.send("key_paste", { at: this.parts.selection.range.value?.first ?? this.frame, keys });
  }

  /** Apply the current pose only to the hold of the mouth, easing in before it and out after it. */
  onHold() {
    const { shot } = this.parts;
    const { start, end } = shot.holdAt(this.figure.character, this.frame);
    const pose = short(this.pose);
    const [first, last] = [Math.max(0, start - 2), Math.min(shot.frames - 1, end + 1)];
    const around = (/** @type {number} */ frame) =>
      named(
        short(
          poseOn(
            this.keys.filter((key) => key.frame < start || key.frame >= end),
            frame,
          ),
        ),
      );
    const rows = new Map([
      [first, around(first)],
      [start, named(pose)],
      [end - 1, named(pose)],
      [last, around(last)],
    ]);
    // At the ends of the shot there is no room to ease.
    rows.set(start, named(pose)).set(end - 1, named(pose));
    const keys = [...rows].sort(([a], [b]) => a - b).map(([frame, values]) => ({ frame: frame - first, ...values }));
    this.send("key_paste", { at: first, keys });
  }

  /** Mirror the pose. */
  mirror() {
    const { first, last } = this.span;
    const keys = this.keys.filter((key) => first <= key.frame && key.frame <= last);
    if (!keys.length) return;
    const turned = keys.map(({ frame, pose, way, step }) => ({
      frame: frame - keys[0].frame,
      way,
      step,
      ...named([-pose[0], pose[1], -pose[2], pose[3], -pose[4], pose[5], ...mirroredBend(bendOf(pose))]),
    }));
    this.send("key_paste", { at: keys[0].frame, keys: turned });
  }

  /** Repeat the selected keys, from the first of them to the end of the shot. */
  loop() {
    const { first, last } = this.span;
    const keys = this.keys.filter((key) => first <= key.frame && key.frame <= last);
    if (keys.length < 2) return;
    const long = keys[keys.length - 1].frame - keys[0].frame;
    const out = [];
    for (let from = 0; keys[0].frame + from < this.parts.shot.frames && out.length < 4000; from += long) {
      for (const { frame, pose, way, step } of from ? keys.slice(1) : keys) {
        out.push({ frame: frame - keys[0].frame + from, way, step, ...named(pose) });
      }
    }
    this.send("key_paste", {
      at: keys[0].frame,
      keys: out.filter((key) => keys[0].frame + key.frame < this.parts.shot.frames),
    });
  }

  /** Go to the key before or after the playhead. */
  walk(/** @type {number} */ by) {
    const frames = this.keys.map((key) => key.frame);
    const to =
      by > 0 ? frames.find((frame) => frame > this.frame) : frames.reverse().find((frame) => frame < this.frame);
    if (to !== undefined) this.parts.transport.seek(to);
  }

  choose(/** @type {Element} */ target) {
    const button = target.closest("button");
    if (!(button instanceof HTMLElement)) return;
    if (button.dataset.pass) {
      this.mark(/** @type {"hide" | "solo" | "lock"} */ (button.dataset.pass));
      return;
    }
    if (button.dataset.moves) {
      this.part = button.dataset.moves;
      this.show();
      return;
    }
    if (button.dataset.take) this.performing.keep(Number(button.dataset.take));
    const does = {
      live: () => this.performing.toggle(),
      hold: () => this.onHold(),
      set: () => this.setAsIs(),
      remove: () => this.remove(),
      before: () => this.walk(-1),
      after: () => this.walk(1),
      mirror: () => this.mirror(),
      loop: () => this.loop(),
      neutral: () => this.set(NEUTRAL),
      bend: () => this.cage.turn(),
      straight: () => this.set(this.pose.slice(0, FIELDS.length)),
      done: () => this.turn(false),
    };
    if (button.dataset.key === "crowd") this.crowd();
    if (button.dataset.key === "act" || button.dataset.key === "again" || button.dataset.key === "calm")
      this.act(button.dataset.key);
    does[/** @type {keyof typeof does} */ (button.dataset.key)]?.();
  }

  /** A background character: the mouth flaps, with blinks and sway from their own seed. */
  crowd() {
    const { id } = this.figure.character;
    const amounts = { blinks: 60, sway: 60 };
    for (const dial of /** @type {NodeListOf<HTMLInputElement>} */ (this.form.querySelectorAll("[data-kind]"))) {
      if (dial.dataset.kind !== "strength")
        dial.value = String(amounts[/** @type {keyof typeof amounts} */ (dial.dataset.kind)] || 0);
    }
    this.showDials();
    this.seed = id;
    this.parts.edits.send("dials", { speaker: String(id), values: { by_loudness: true } });
    this.act("act");
  }

  /** Propose acting, replacing earlier proposals. */
  async act(/** @type {"act" | "again" | "calm"} */ what) {
    const { edits, shot } = this.parts;
    const dials = [.../** @type {NodeListOf<HTMLInputElement>} */ (this.form.querySelectorAll("[data-kind]"))];
    const values = Object.fromEntries(dials.map((dial) => [dial.dataset.kind, Number(dial.value)]));
    const { strength, ...kinds } = values;
    if (what === "again") this.seed += 1;
    const speaker = String(this.figure.character.id);
    const locked = this.partsOf.map(([part]) => part).filter((part) => this.locked.has(`${speaker} ${part}`));
    await edits.send("act", { speaker, kinds: what === "calm" ? {} : kinds, strength, seed: this.seed, locked });
    const count = Object.values(shot.motion[speaker] || {})
      .flat()
      .filter((key) => key.by).length;
    /** @type {HTMLElement} */ (this.form.querySelector('[data-part="acted"]')).textContent = count
      ? gettext("{count} suggested keys, drawn hollow. Change one to make it your own.", { count })
      : gettext("No suggestions.");
  }

  type(/** @type {HTMLInputElement} */ field) {
    if (field.dataset.kind) {
      this.showDials();
      if (
        Object.values(this.parts.shot.motion[String(this.figure.character.id)] || {}).some((keys) =>
          keys.some((key) => key.by),
        )
      )
        this.act("act");
      return;
    }
    if (field.name === "note") {
      this.parts.edits.send("pass_note", {
        speaker: String(this.figure.character.id),
        part: this.part,
        text: field.value,
      });
      return;
    }
    if (field.name === "way" || field.name === "step") {
      const at = this.keys[keyAt(this.keys, this.frame)];
      if (!at) return;
      const span = this.parts.selection.range.value ? this.span : { first: at.frame, last: at.frame };
      this.send("key_way", {
        ...span,
        ...(field.name === "way" ? { way: field.value } : { step: Number(field.value) }),
      });
      return;
    }
    const n = FIELDS.indexOf(field.name);
    const value = Number(field.value);
    if (n < 0 || !field.value || !Number.isFinite(value)) return;
    const pose = [...this.pose];
    pose[n] = value;
    this.set(pose);
  }

  /** Convert Stage pixels to hundredths of the face picture's height, along the axes of the part. */
  along(/** @type {number} */ x, /** @type {number} */ y) {
    const { stand, box } = this.figure;
    const { scale } = this.parts.stage.view;
    let [dx, dy] = [(x / scale / box.height) * 100, (y / scale / box.height) * 100];
    const back = (/** @type {number[]} */ [a, b, c, d]) => {
      const det = a * d - b * c;
      [dx, dy] = [(d * dx - c * dy) / det, (a * dy - b * dx) / det];
    };
    const turn = (stand.turn * Math.PI) / 180;
    const side = stand.mirrored ? -1 : 1;
    back([Math.cos(turn) * side, Math.sin(turn) * side, -Math.sin(turn), Math.cos(turn)]);
    if (this.part !== "head") back(poseMatrix(this.figure.poseOf("head", this.frame), [0, 0], 1));
    if (this.part !== "head" && this.part !== "face")
      back(poseMatrix(this.figure.poseOf("face", this.frame), [0, 0], 1));
    return [dx, dy];
  }

  /** A pose dragged by pixels of the Stage: moved, turned with Shift, stretched with Alt, leaned with both. */
  posed(
    /** @type {Pose} */ from,
    /** @type {PointerEvent} */ at,
    /** @type {number} */ x,
    /** @type {number} */ y,
    spun = 0,
  ) {
    const [dx, dy] = this.along(x, y);
    const pose = [...from];
    pose[2] += spun;
    if (at.shiftKey && at.altKey) pose[4] += dx / 2;
    else if (at.shiftKey) pose[2] += dx / 2;
    else if (at.altKey) pose[3] -= dy * 2;
    else [pose[0], pose[1]] = [pose[0] + dx, pose[1] + dy];
    return short(pose);
  }

  /** A drag moves the part; with Shift it turns, with Alt it stretches, with both it leans. */
  press(/** @type {PointerEvent} */ event) {
    const on = /** @type {Element} */ (event.target).closest(".figure");
    if (!this.isOn.value || !on || event.button) return;
    event.preventDefault();
    if (this.isLocked) {
      this.send("key_set", {});
      return;
    }
    if (this.performing.isDriven) {
      this.performing.begin(event);
      return;
    }
    const { figure, part, frame } = this;
    const from = this.pose;
    const [x, y] = [event.clientX, event.clientY];
    let hasMoved = false;
    const to = (/** @type {PointerEvent} */ at) => this.posed(from, at, at.clientX - x, at.clientY - y);
    drag(
      this.parts.stage.picture,
      event,
      (at) => {
        hasMoved ||= Math.hypot(at.clientX - x, at.clientY - y) > 2;
        if (!hasMoved) return;
        figure.dragged[part] = to(at);
        figure.move(frame);
        this.fill();
      },
      (at) => {
        delete figure.dragged[part];
        if (hasMoved) this.set(to(at));
        figure.move(this.frame);
      },
    );
  }

  /** The curve for the Lens: poses of frames, and keys. */
  get curve() {
    return this.isOn.value
      ? {
          character: this.figure.character,
          part: this.part,
          keys: this.keys,
          poseOn: (/** @type {number} */ frame) => poseOn(this.keys, frame),
        }
      : null;
  }
}
