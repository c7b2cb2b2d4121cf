/** Second looks: how many are left, what the one in hand is about, and settling it. The worst come first. */

import { gettext } from "../lib/gettext.js";
import { named } from "./wordwork.js";

export class Looks {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   hand: import("../lib/signal.js").Signal<import("./model.js").Character>,
   *   edits: import("./edits.js").Edits, alike: import("./alike.js").Alike | null}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.parts = parts;
    this.part = (/** @type {string} */ name) => /** @type {HTMLElement} */ (root.querySelector(`[data-part="${name}"]`));
    /** @type {string} the key of the look in hand */
    this.inHand = "";
    scope.listen(root, "click", (event) => {
      const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-look]");
      if (!(pressed instanceof HTMLElement)) return;
      if (pressed.dataset.look === "answer") this.answer(Number(pressed.dataset.answer));
      else if (pressed.dataset.look === "settle") this.settle();
      else this.walk(pressed.dataset.look === "next" ? 1 : -1);
    });
    this.show();
  }

  get open() {
    return this.parts.shot.secondLooks;
  }

  get at() {
    return this.open.findIndex((look) => look.key === this.inHand);
  }

  /** To the next one, or the one before; round again after the last. */
  walk(/** @type {number} */ direction) {
    const { open, at } = this;
    if (!open.length) return;
    const next = at < 0 ? (direction > 0 ? 0 : open.length - 1) : (at + direction + open.length) % open.length;
    this.inHand = open[next].key;
    this.parts.transport.pause();
    this.go(open[next]);
    this.show();
  }

  /** There, with whoever it is about in hand: what is pressed next is meant for them. */
  go(/** @type {import("./model.js").Look} */ look) {
    const { shot, transport, hand } = this.parts;
    hand.value = shot.characters.find((one) => one.id === look.who) || hand.value;
    transport.seek(shot.rate.frameAt(look.start));
  }

  show() {
    const { open, at } = this;
    const all = this.parts.shot.looks.length;
    const look = open[at];
    this.part("count").textContent = all ? (look ? `${at + 1} of ${open.length}` : gettext("{count} left of {all}", { count: open.length, all })) : "none";
    this.part("look").textContent = look ? `${look.text}.` : "";
    this.offer(look?.answers || []);
    for (const button of /** @type {NodeListOf<HTMLButtonElement>} */ (this.root.querySelectorAll("[data-look]"))) {
      button.disabled = ["settle", "answer"].includes(button.dataset.look || "") ? !look : !open.length;
    }
  }

  /** What else the word may be: a button for each. */
  offer(/** @type {string[]} */ answers) {
    const place = this.root.querySelector('[data-part="answers"]');
    if (!place) return;
    place.replaceChildren(
      ...answers.map((text, at) => {
        const button = document.createElement("button");
        button.type = "button";
        button.dataset.look = "answer";
        button.dataset.answer = String(at);
        button.title = gettext("It is “{text}” (Alt {value})", { text, value: at + 1 });
        button.textContent = text;
        return button;
      }),
    );
  }

  /** The word is another one: it is typed anew, and the next look comes in hand. */
  answer(/** @type {number} */ at) {
    const { open, parts } = this;
    const look = open[this.at];
    const text = look?.answers[at];
    if (!text || !parts.edits.may) return;
    const word = parts.shot.words.find((one) => one.start === look.start && one.end === look.end);
    if (!word) return;
    parts.alike?.offer(word.text, text, parts.edits.send("retype", { ...named(word), text }));
    this.settle();
  }

  /** It is right as it is: the next one, which has the place of the settled one in the list, comes in hand. */
  settle() {
    const { open, at, parts } = this;
    if (at < 0 || !parts.edits.may) return;
    parts.edits.send("settle", { key: open[at].key });
    const next = this.open[Math.min(at, this.open.length - 1)];
    this.inHand = next?.key || "";
    if (next) this.go(next);
    this.show();
  }
}
