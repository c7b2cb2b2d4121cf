/** Retyping words and choosing phonemes, in fields at their places on the Lens. */
import { gettext } from "../lib/gettext.js";

/** The step of keys that move words and phonemes. */
const STEP_US = 10_000;

/** The parameters that identify a word in an edit. */
export const named = (/** @type {import("./model.js").Word} */ word) => ({ word: word.id, clip: word.clip });

export class WordWork {
  /**
   * @param {{panel: HTMLElement, lens: import("./lens.js").Lens, shot: import("./model.js").Shot,
   *   edits: import("./edits.js").Edits, transport: import("../lib/transport.js").Transport,
   *   selection: import("./selection.js").Selection, alike: import("./alike.js").Alike | null,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(parts, scope) {
    this.parts = parts;
    this.panel = parts.panel;
    const part = (/** @type {string} */ name) =>
      /** @type {HTMLElement} */ (parts.panel.querySelector(`[data-part="${name}"]`));
    this.title = part("of");
    this.field = /** @type {HTMLInputElement} */ (part("text"));
    this.sounds = part("sounds");
    this.label = part("label");
    /** @type {import("./model.js").Word | null} */
    this.word = null;
    /** @type {import("./model.js").Phoneme | null} */
    this.sound = null;
    scope.listen(parts.panel, "submit", (event) => {
      event.preventDefault();
      this.enter();
    });
    scope.listen(parts.panel, "keydown", (/** @type {KeyboardEvent} */ event) => {
      event.stopPropagation();
      if (event.key === "Escape") this.close();
    });
    scope.listen(parts.panel, "click", (event) => this.click(/** @type {HTMLElement} */ (event.target)));
  }

  get here() {
    return this.parts.shot.wordOn(this.parts.transport.frame.value, this.parts.activeCharacter.value.id);
  }

  /** The phoneme at the playhead. */
  get soundHere() {
    const { shot, transport } = this.parts;
    return shot.heardOn(transport.frame.value).phonemes[0];
  }

  open(/** @type {number} */ timeUs, /** @type {string} */ title, /** @type {boolean} */ withSounds) {
    const { lens } = this.parts;
    this.title.textContent = title;
    this.sounds.hidden = !withSounds;
    this.panel.hidden = false;
    const width = this.panel.offsetWidth;
    const box = lens.canvas.getBoundingClientRect();
    this.panel.style.left = `${Math.max(8, Math.min(box.left + lens.view.x(timeUs) - 20, window.innerWidth - width - 8))}px`;
    this.panel.style.bottom = `${window.innerHeight - box.top - lens.lanes[1].top + 4}px`;
    this.field.focus();
    this.field.select();
  }

  close() {
    this.panel.hidden = true;
    this.word = this.sound = null;
    /** @type {HTMLElement} */ (document.querySelector("#sheet")).focus({ preventScroll: true });
  }

  /** Retype a word; its phonemes change with it. */
  type(word = this.here) {
    if (!word || !this.parts.edits.may) return;
    [this.word, this.sound] = [word, null];
    this.label.textContent = gettext("Word");
    this.field.value = word.text;
    this.panel.dataset.mode = "word";
    this.open(word.start, gettext("Instead of “{text}”", { text: word.text }), false);
  }

  /** Add a word on the selected frames. */
  add() {
    const { selection, edits, shot } = this.parts;
    const range = selection.range.value;
    if (!range || !edits.may) return;
    [this.word, this.sound] = [null, null];
    this.label.textContent = gettext("Word");
    this.field.value = "";
    this.panel.dataset.mode = "new";
    this.open(
      shot.rate.firstUs(range.first),
      gettext("Word on frames {first}–{end}", { first: shot.number(range.first), end: shot.number(range.end - 1) }),
      false,
    );
  }

  /** Choose another phoneme. */
  choose(sound = this.soundHere) {
    if (!sound || !this.parts.edits.may) return;
    [this.word, this.sound] = [this.parts.shot.words[sound.word], sound];
    this.label.textContent = gettext("IPA or ARPABET");
    this.field.value = sound.ipa;
    this.panel.dataset.mode = "sound";
    this.open(sound.start, gettext("The sound {ipa} of “{text}”", { ipa: sound.ipa, text: this.word.text }), true);
  }

  enter() {
    const text = this.field.value.trim();
    const { edits, selection, shot, activeCharacter } = this.parts;
    const { mode } = this.panel.dataset;
    const range = selection.range.value;
    if (mode === "sound") this.put("sound_set", text);
    else if (mode === "word" && text && this.word)
      this.parts.alike?.offer(this.word.text, text, edits.send("retype", { ...named(this.word), text }));
    else if (mode === "word" && this.word) edits.send("word_remove", named(this.word));
    else if (mode === "new" && text && range) {
      edits.send("word_add", {
        speaker: String(activeCharacter.value.id),
        start_us: shot.rate.firstUs(range.first),
        end_us: Math.min(shot.durationUs, shot.rate.firstUs(range.end)),
        text,
      });
    }
    this.close();
  }

  /** Replace the active phoneme, insert one before or after it, or remove it. */
  put(/** @type {string} */ where, /** @type {string} */ ipa) {
    if (!this.sound || !this.word) return;
    const { edits } = this.parts;
    const one = { ...named(this.word), sound: this.sound.id };
    if (where === "sound_remove") edits.send("sound_remove", one);
    else if (where === "sound_set") edits.send("sound_set", { ...one, ipa });
    else edits.send("sound_insert", { ...one, ipa, after: where === "sound_insert_after" });
  }

  click(/** @type {HTMLElement} */ target) {
    const chip = target.closest("[data-sound]");
    const button = target.closest("[data-word]");
    if (chip instanceof HTMLElement) {
      this.put(
        /** @type {HTMLInputElement} */ (this.panel.querySelector("[name=place]:checked")).value,
        chip.dataset.sound || "",
      );
      this.close();
    } else if (button instanceof HTMLElement) {
      if (button.dataset.word === "remove" && this.sound) this.put("sound_remove", "");
      else if (button.dataset.word === "remove" && this.word) this.parts.edits.send("word_remove", named(this.word));
      this.close();
    }
  }

  /** Move the word at the playhead, or its whole line, in time. */
  slide(/** @type {number} */ direction, /** @type {boolean} */ isLine) {
    const word = this.here;
    if (word)
      this.parts.edits.send("slide", { ...named(word), by_us: direction * STEP_US, what: isLine ? "line" : "word" });
  }

  /** Move an end of the word at the playhead. */
  edge(/** @type {"start" | "end"} */ edge, /** @type {number} */ direction) {
    const word = this.here;
    if (word)
      this.parts.edits.send("edge", {
        ...named(word),
        edge,
        at_us: Math.max(0, (edge === "start" ? word.start : word.end) + direction * STEP_US),
      });
  }

  /** Move an end of the phoneme at the playhead. */
  soundEdge(/** @type {"start" | "end"} */ edge, /** @type {number} */ direction) {
    const sound = this.soundHere;
    const word = sound && this.parts.shot.words[sound.word];
    if (!sound || !word) return;
    this.parts.edits.send("edge", {
      ...named(word),
      sound: sound.id,
      edge,
      at_us: Math.max(0, (edge === "start" ? sound.start : sound.end) + direction * STEP_US),
    });
  }
}
