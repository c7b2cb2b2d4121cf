/** The Tray: the character's mouths, the current one, and the explanation of the hold. */
import { gettext, ngettext } from "../lib/gettext.js";

export class Tray {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.shot = parts.shot;
    this.activeCharacter = parts.activeCharacter;
    this.part = (/** @type {string} */ name) =>
      /** @type {HTMLElement} */ (root.querySelector(`[data-part="${name}"]`));
    this.current = -1;
    /** The drawings that have cards. */
    this.built = "";
    /** @type {Map<number, HTMLElement>} */
    this.cards = new Map();
    /** @type {((drawing: import("./model.js").Drawing) => void) | null} what choosing a mouth does */
    this.onChoose = null;
    scope.listen(this.part("drawings"), "click", (event) => {
      const card = /** @type {HTMLElement} */ (event.target).closest("li");
      const drawing = card && parts.shot.drawings.get(Number(card.dataset.drawing));
      if (drawing && this.onChoose) this.onChoose(drawing);
    });
    /** @type {Map<string, string>} reasons by character and hold, as they were asked for */
    this.reasons = new Map();
    /** @type {number | undefined} */
    this.timer = undefined;
    /** A counter of changes of the holds. */
    this.turnOf = 0;
    this.choices = /** @type {HTMLElement[]} */ ([...root.querySelectorAll("[data-tray]")]);
    for (const choice of this.choices) scope.listen(choice, "click", () => this.turn(choice));
    scope.add(() => clearTimeout(this.timer));
    scope.add(
      this.activeCharacter.follow(() => {
        this.build();
        this.show(parts.transport.frame.value);
      }),
    );
    scope.add(parts.transport.frame.follow((frame) => this.show(frame)));
  }

  /** Switch between mouths and dials. */
  turn(/** @type {HTMLElement} */ chosen) {
    for (const choice of this.choices) choice.setAttribute("aria-pressed", String(choice === chosen));
    this.part("drawings").hidden = chosen.dataset.tray !== "mouths";
    this.part("dials").hidden = this.part("stretches").hidden = chosen.dataset.tray !== "dials";
    chosen.blur();
  }

  /** Toggle by key; the first dial gets the focus. */
  turnOver() {
    const other = this.choices.find((choice) => choice.getAttribute("aria-pressed") === "false");
    if (!other) return;
    this.turn(other);
    if (other.dataset.tray === "dials")
      /** @type {HTMLElement | null} */ (this.part("dials").querySelector("input[data-dial]"))?.focus();
  }

  /** Update after the character's holds changed. */
  refresh(/** @type {number} */ frame) {
    this.reasons.clear();
    this.turnOf += 1;
    this.build();
    this.show(frame);
  }

  get character() {
    return this.activeCharacter.value;
  }

  build() {
    const uses = new Map();
    for (const hold of this.character.holds) uses.set(hold.drawing, (uses.get(hold.drawing) || 0) + 1);
    const shown = this.character.drawings.filter((drawing) => !drawing.hidden || uses.has(drawing.id));
    this.part("numbers").textContent = this.numbers();
    const key = shown.map((drawing) => drawing.id).join();
    if (key !== this.built) this.lay(shown);
    this.built = key;
    for (const drawing of shown) {
      const card = /** @type {HTMLElement} */ (this.cards.get(drawing.id));
      const used = uses.get(drawing.id) || 0;
      /** @type {HTMLElement} */ (card.querySelector(".uses")).textContent = `${used}×`;
      card.title = `${drawing.number} · ${drawing.name}${drawing.key ? ` (key ${drawing.key.toUpperCase()})` : ""}: ${used ? gettext("{used} holds in this shot", { used }) : gettext("not used in this shot")}`;
      card.classList.toggle("unused", !used);
    }
    this.current = -1;
  }

  /** A card for each drawing. */
  lay(/** @type {import("./model.js").Drawing[]} */ drawings) {
    const template = /** @type {HTMLTemplateElement} */ (this.root.querySelector("template"));
    this.root.className = `tint-${this.character.ink}`;
    this.part("name").textContent = this.character.name;
    this.cards.clear();
    for (const drawing of drawings) {
      const card = /** @type {HTMLElement} */ (template.content.firstElementChild?.cloneNode(true));
      /** @type {HTMLImageElement} */ (card.querySelector("img")).src = drawing.thumb;
      /** @type {HTMLElement} */ (card.querySelector(".no")).textContent = String(drawing.number);
      /** @type {HTMLElement} */ (card.querySelector("kbd")).textContent = drawing.key;
      /** @type {HTMLElement} */ (card.querySelector(".sounds")).textContent =
        drawing.sounds.slice(0, 4).join(" ") || (this.character.of ? drawing.name : "–");
      card.dataset.drawing = String(drawing.id);
      this.cards.set(drawing.id, card);
    }
    this.part("drawings").replaceChildren(...this.cards.values());
  }

  show(/** @type {number} */ frame) {
    const { shot, character } = this;
    const hold = shot.holdAt(character, frame);
    this.shown = hold;
    if (this.current !== hold.drawing) {
      for (const [number, card] of this.cards || []) {
        card.hidden = shot.drawings.get(number)?.set !== shot.drawingOf(hold).set;
        if (number === hold.drawing) card.setAttribute("aria-current", "true");
        else card.removeAttribute("aria-current");
      }
      this.current = hold.drawing;
    }
    const { words, phonemes } = shot.heardOn(frame);
    this.part("title").textContent = words.length ? words.map((w) => w.text).join(" · ") : gettext("silence");
    this.part("frames").textContent = gettext("frames {first}–{last}", {
      first: shot.number(hold.start),
      last: shot.number(hold.end - 1),
    });
    this.part("why").textContent = this.why(hold);
    this.askWhy(hold);
    const heard = phonemes.map((p) => p.ipa).join(" ");
    this.part("heard").textContent = heard
      ? gettext("Heard on frame {frame}: {heard}.", { frame: shot.number(frame), heard })
      : gettext("Nothing heard on frame {frame}.", { frame: shot.number(frame) });
    const doubt = words.find((w) => w.sure < shot.doubtful);
    this.part("doubt").textContent = doubt
      ? gettext("“{text}” may be wrong: it sounds different from what is typed ({sure} % sure).", {
          text: doubt.text,
          sure: Math.round(doubt.sure * 100),
        })
      : "";
  }

  /** After the playhead stops: explain which sounds the hold shows, and which had no room. */
  askWhy(/** @type {import("./model.js").Hold} */ hold) {
    // Ignore responses from before the holds changed.
    const key = `${this.turnOf} ${this.character.id} ${hold.start}`;
    clearTimeout(this.timer);
    this.part("reason").textContent = this.reasons.get(key) || "";
    // Parts that are only set by hand need no explanation.
    if (this.character.of) return;
    if (this.reasons.has(key)) return;
    this.timer = setTimeout(async () => {
      const address = `${this.part("reason").dataset.why}?character=${this.character.id}&frame=${hold.start}`;
      const answer = await fetch(address)
        .then((r) => (r.ok ? r.json() : null))
        .catch(() => null);
      if (!answer) return;
      // Leave out drawings that are impossible, as they would hide a closure.
      const near = answer.others.filter((/** @type {any} */ o) => o.more < 100);
      const others = near.map((/** @type {any} */ o) => `${o.drawing} +${o.more}`).join(", ");
      this.reasons.set(key, `${answer.text}${others ? gettext(" Others cost more: {others}.", { others }) : ""}`);
      if (this.shown === hold) this.part("reason").textContent = this.reasons.get(key) || "";
    }, 250);
  }

  /** The text about the sounds that the hold shows. */
  why(/** @type {import("./model.js").Hold} */ hold) {
    const { number, name, set } = this.shot.drawingOf(hold);
    const drawing = set
      ? gettext("Drawing {number}, {name}, of the set {set}", { number, name, set })
      : gettext("Drawing {number}, {name}", { number, name });
    const shows = this.character.of ? [] : [hold.viseme === "rest" ? gettext("at rest") : gettext(hold.viseme)];
    const length = hold.end - hold.start;
    return `${drawing}: ${[...shows, ngettext("held {count} frame", "held {count} frames", length)].join(", ")}.`;
  }

  /** The statistics of the character's timing. */
  numbers() {
    const { changes, shortest, on, used, pieces } = this.character.numbers;
    const names = [gettext("on ones"), gettext("on twos"), gettext("on threes"), gettext("longer")];
    const shares = names.map((name, at) => (on[at] ? `${on[at]} % ${name}` : "")).filter(Boolean);
    const told = [
      gettext("{changes} changes a second", { changes }),
      gettext("shortest {shortest}", { shortest }),
      shares.join(", "),
      gettext("{used} mouths used", { used }),
    ];
    if (pieces > used) told.push(gettext("{pieces} replacement mouths needed", { pieces }));
    return told.join(" · ");
  }
}
