/** The Tray: the character's mouths, which one is shown, and what is heard there. */
import { timecode } from "./clock.js";

export class Tray {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("./transport.js").Transport,
   *   hand: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.shot = parts.shot;
    this.hand = parts.hand;
    this.part = (/** @type {string} */ name) => /** @type {HTMLElement} */ (root.querySelector(`[data-part="${name}"]`));
    this.current = -1;
    scope.add(
      this.hand.follow(() => {
        this.build();
        this.show(parts.transport.frame.value);
      }),
    );
    scope.add(parts.transport.frame.follow((frame) => this.show(frame)));
  }

  get character() {
    return this.hand.value;
  }

  build() {
    const template = /** @type {HTMLTemplateElement} */ (this.root.querySelector("template"));
    const uses = new Map();
    this.root.className = `tint-${this.character.ink}`;
    this.part("name").textContent = this.character.name;
    this.part("drawings").replaceChildren();
    this.current = -1;
    for (const hold of this.character.holds) uses.set(hold.drawing, (uses.get(hold.drawing) || 0) + 1);
    /** @type {Map<number, HTMLElement>} */
    this.cards = new Map();
    for (const drawing of this.character.drawings) {
      const card = /** @type {HTMLElement} */ (template.content.firstElementChild?.cloneNode(true));
      const used = uses.get(drawing.id) || 0;
      if (drawing.hidden && !used) continue;
      /** @type {HTMLImageElement} */ (card.querySelector("img")).src = drawing.thumb;
      /** @type {HTMLElement} */ (card.querySelector(".no")).textContent = String(drawing.number);
      /** @type {HTMLElement} */ (card.querySelector(".uses")).textContent = `${used}×`;
      /** @type {HTMLElement} */ (card.querySelector(".sounds")).textContent = drawing.sounds.slice(0, 4).join(" ") || "–";
      card.title = `${drawing.number} · ${drawing.name}: ${used ? `${used} holds in this shot` : "not used in this shot"}`;
      card.classList.toggle("unused", !used);
      this.part("drawings").append(card);
      this.cards.set(drawing.id, card);
    }
  }

  show(/** @type {number} */ frame) {
    const { shot, character } = this;
    const hold = shot.holdAt(character, frame);
    if (this.current !== hold.drawing) {
      for (const [number, card] of this.cards || []) {
        card.hidden = shot.drawings.get(number)?.set !== shot.drawingOf(hold).set;
        if (number === hold.drawing) card.setAttribute("aria-current", "true");
        else card.removeAttribute("aria-current");
      }
      this.current = hold.drawing;
    }
    const { words, phonemes } = shot.heardOn(frame);
    this.part("title").textContent = words.length ? words.map((w) => w.text).join(" · ") : "silence";
    this.part("frames").textContent = `frames ${shot.number(hold.start)}–${shot.number(hold.end - 1)}`;
    this.part("why").textContent = this.why(hold);
    const heard = phonemes.map((p) => p.ipa).join(" ");
    this.part("heard").textContent = `${heard ? `Heard on ${shot.number(frame)}: ${heard}` : `Nothing is heard on ${shot.number(frame)}`} · ${timecode(frame, shot.rate)}`;
    const doubt = words.find((w) => w.sure < shot.doubtful);
    this.part("doubt").textContent = doubt
      ? `Second look: “${doubt.text}” does not sound like it is written (${Math.round(doubt.sure * 100)} % sure).`
      : "";
  }

  /** In words: which sounds of this hold its drawing is there for. */
  why(/** @type {import("./model.js").Hold} */ hold) {
    const length = hold.end - hold.start;
    const held = `held ${length} frame${length === 1 ? "" : "s"}`;
    const { number, name, set } = this.shot.drawingOf(hold);
    return `Drawing ${number}, ${name}${set ? `, of the set ${set}` : ""}: ${hold.viseme === "rest" ? "at rest" : hold.viseme}, ${held}.`;
  }
}
