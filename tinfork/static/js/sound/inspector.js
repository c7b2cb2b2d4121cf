/** The selection as text and fields: the same edits as by pointer, for the keyboard and exact numbers. */
import { gettext } from "../lib/gettext.js";

/** @typedef {{send: SendEdit, select: (selection: import("./model.js").Selection) => void}} Does */

export class Inspector {
  /**
   * @param {HTMLElement} root
   * @param {import("./model.js").SoundShot} shot
   * @param {import("../lib/transport.js").Transport} transport
   * @param {Does} does
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, shot, transport, does, scope) {
    this.root = root;
    this.shot = shot;
    this.transport = transport;
    this.does = does;
    /** @type {import("./model.js").Selection} */
    this.selection = null;
    scope.listen(root, "change", (event) => this.changed(event));
    scope.listen(root, "submit", (event) => this.submitted(event));
  }

  find(/** @type {string} */ selector) {
    return /** @type {any} */ (this.root.querySelector(selector));
  }

  /** A field's whole number; null if it is invalid. */
  number(/** @type {string} */ name) {
    const text = this.find(`[data-field="${name}"]`).value;
    return text !== "" && Number.isFinite(Number(text)) ? Math.round(Number(text)) : null;
  }

  /** The frame (from 0) of a displayed number. */
  frame(/** @type {string} */ name) {
    const shown = this.number(name);
    return shown === null ? null : Math.max(0, shown - this.shot.firstFrame);
  }

  show(/** @type {import("./model.js").Selection} */ selection) {
    this.selection = selection;
    const thing = this.shot.selected(selection);
    for (const part of this.root.querySelectorAll("[data-for]")) {
      const wanted = /** @type {HTMLElement} */ (part).dataset.for;
      /** @type {HTMLElement} */ (part).hidden = wanted !== (thing ? selection?.kind : "nothing");
    }
    if (thing && selection?.kind === "clip") this.showClip(/** @type {import("./model.js").Clip} */ (thing));
    if (thing && selection?.kind === "turn") this.showTurn(/** @type {import("./model.js").Turn} */ (thing));
    this.find('[data-field="length"]').value = this.shot.lengthUs ? String(this.shot.frames) : "";
    this.list();
  }

  fill(/** @type {Record<string, string | number>} */ values) {
    for (const [name, value] of Object.entries(values)) this.find(`[data-field="${name}"]`).value = String(value);
  }

  showClip(/** @type {import("./model.js").Clip} */ clip) {
    const { shot } = this;
    const frames = (/** @type {number} */ us) => Math.round(shot.rate.position(us));
    const link = this.find("[data-take]");
    link.textContent = shot.takes[String(clip.take)]?.name || gettext("take");
    link.href = link.dataset.take.replace("/0/", `/${clip.take}/`);
    this.fill({
      start: shot.number(shot.nearestFrame(clip.start)),
      end: shot.number(shot.nearestFrame(clip.start + clip.length)),
      fade_in: frames(clip.fade_in),
      fade_out: frames(clip.fade_out),
      gain: clip.gain,
    });
    this.find("[data-voice-only]").hidden = clip.voice === null;
  }

  showTurn(/** @type {import("./model.js").Turn} */ turn) {
    const { shot } = this;
    this.fill({
      speaker: turn.speaker,
      from: shot.number(shot.rate.frameAt(turn.start)),
      to: shot.number(shot.rate.frameAt(Math.max(turn.start, turn.end - 1))),
    });
  }

  /** The clips and turns as lists of buttons. */
  list() {
    const { shot } = this;
    const clips = shot.clips.map((clip) => ({
      label: `${shot.takes[String(clip.take)]?.name || gettext("take")} · ${shot.number(shot.nearestFrame(clip.start))}–${shot.number(Math.max(0, shot.nearestFrame(clip.start + clip.length) - 1))}`,
      selection: /** @type {import("./model.js").Selection} */ ({ kind: "clip", id: clip.id }),
      current: this.selection?.kind === "clip" && this.selection.id === clip.id,
    }));
    const turns = shot.turns.map((turn) => ({
      label: `${shot.character(turn.speaker)?.name || "nobody"} · ${shot.number(shot.rate.frameAt(turn.start))}–${shot.number(shot.rate.frameAt(Math.max(turn.start, turn.end - 1)))}`,
      selection: /** @type {import("./model.js").Selection} */ ({ kind: "turn", clip: turn.clip, turn: turn.id }),
      current: this.selection?.kind === "turn" && this.selection.clip === turn.clip && this.selection.turn === turn.id,
    }));
    this.fillList("[data-list=clips]", clips);
    this.fillList("[data-list=turns]", turns);
  }

  /**
   * @param {string} selector
   * @param {Array<{label: string, selection: import("./model.js").Selection, current: boolean}>} entries
   */
  fillList(selector, entries) {
    const list = this.find(selector);
    const focused = [...list.querySelectorAll("button")].indexOf(document.activeElement);
    list.replaceChildren(
      ...entries.map(({ label, selection, current }) => {
        const item = document.createElement("li");
        const button = document.createElement("button");
        button.type = "button";
        button.textContent = label;
        if (current) button.setAttribute("aria-current", "true");
        button.addEventListener("click", () => this.does.select(selection));
        item.append(button);
        return item;
      }),
    );
    if (focused >= 0) list.querySelectorAll("button")[focused]?.focus();
    list.closest("details").querySelector("summary span").textContent = String(entries.length);
  }

  changed(/** @type {Event} */ event) {
    const field = /** @type {HTMLElement} */ (event.target).dataset.field;
    const thing = this.shot.selected(this.selection);
    if (!field || !thing || !this.selection) return;
    if (this.selection.kind === "clip") this.changeClip(field, /** @type {import("./model.js").Clip} */ (thing));
    else this.changeTurn(field, /** @type {import("./model.js").Turn} */ (thing));
  }

  changeClip(/** @type {string} */ field, /** @type {import("./model.js").Clip} */ clip) {
    const { rate } = this.shot;
    const long = (/** @type {string} */ name) =>
      Math.min(rate.firstUs(Math.max(0, this.number(name) || 0)), clip.length);
    const start = this.frame("start");
    if (field === "start" && start !== null) this.does.send("move", { clip: clip.id, frame: start, what: this.what() });
    else if (field === "end" && this.frame("end") !== null)
      this.does.send("trim", { clip: clip.id, end: this.frame("end") });
    else if (field === "fade_in" || field === "fade_out")
      this.does.send("fade", {
        clip: clip.id,
        fade_in_us: long("fade_in"),
        fade_out_us: Math.min(long("fade_out"), clip.length - long("fade_in")),
      });
    else if (field === "gain")
      this.does.send("gain", { clip: clip.id, db: Number(this.find('[data-field="gain"]').value) || 0 });
  }

  changeTurn(/** @type {string} */ field, /** @type {import("./model.js").Turn} */ turn) {
    const known = { clip: turn.clip, turn: turn.id };
    const { rate } = this.shot;
    if (field === "speaker")
      this.does.send("turn_give", { ...known, speaker: this.find('[data-field="speaker"]').value });
    const from = this.frame("from");
    const to = this.frame("to");
    if ((field === "from" || field === "to") && from !== null && to !== null) {
      this.does.send("turn_trim", {
        ...known,
        start_us: field === "from" ? rate.firstUs(from) : turn.start,
        end_us: field === "to" ? rate.firstUs(to + 1) : turn.end,
      });
    }
  }

  /** What a move of a clip includes. */
  what() {
    return this.find("input[name=what]:checked")?.value || "both";
  }

  submitted(/** @type {SubmitEvent} */ event) {
    const form = /** @type {HTMLFormElement} */ (event.target);
    const edit = form.dataset.edit;
    if (!edit) return;
    event.preventDefault();
    const now = this.transport.frame.value;
    if (edit === "gap") this.does.send("gap", { frame: now, frames: Math.max(1, this.number("gap") || 0) });
    const begin = this.frame("begin");
    if (edit === "begin" && begin !== null) this.does.send("begin", { frame: begin });
    if (edit === "length") this.does.send("length", { frames: Math.max(0, this.number("length") || 0) });
    const take = this.number("take");
    if (edit === "place" && take)
      this.does.send("place", { take, frame: now, kind: this.find('[data-field="kind"]').value });
    if (edit === "add_track")
      this.does.send("add_track", {
        name: this.find('[data-field="track_name"]').value || gettext("Effects"),
        kind: this.find('[data-field="track_kind"]').value,
      });
  }
}
