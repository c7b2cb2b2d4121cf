/**
 * Second looks: their number, the active one, and settling it. The worst come first; each is played and offers its
 * likely corrections.
 */

import { gettext } from "../lib/gettext.js";

export class Looks {
  /**
   * @param {HTMLElement} root
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>,
   *   edits: import("./edits.js").Edits, alike: import("./alike.js").Alike | null,
   *   selection: import("./selection.js").Selection, words: import("./wordwork.js").WordWork}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.parts = parts;
    this.part = (/** @type {string} */ name) =>
      /** @type {HTMLElement} */ (root.querySelector(`[data-part="${name}"]`));
    /** @type {string} the key of the active look */
    this.activeKey = "";
    scope.listen(root, "click", (event) => {
      const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-look]");
      if (!(pressed instanceof HTMLElement)) return;
      if (pressed.dataset.look === "correct") this.correct(Number(pressed.dataset.at));
      else if (pressed.dataset.look === "settle") this.settle();
      else this.walk(pressed.dataset.look === "next" ? 1 : -1);
    });
    this.show();
  }

  get open() {
    return this.parts.shot.secondLooks;
  }

  get at() {
    return this.open.findIndex((look) => look.key === this.activeKey);
  }

  /** Go to the next or previous one, cyclically. */
  walk(/** @type {number} */ direction) {
    const { open, at } = this;
    if (!open.length) return;
    const next = at < 0 ? (direction > 0 ? 0 : open.length - 1) : (at + direction + open.length) % open.length;
    this.activeKey = open[next].key;
    this.go(open[next]);
    this.show();
  }

  /**
   * Go to a look and make its character active, so that the next keys apply to it. The stretch around it is played, and
   * the playhead returns.
   */
  go(/** @type {import("./model.js").Look} */ look) {
    const { shot, transport, activeCharacter } = this.parts;
    activeCharacter.value = shot.characters.find((one) => one.id === look.who) || activeCharacter.value;
    const frame = shot.rate.frameAt(look.start);
    transport.seek(frame);
    const around = Math.ceil(shot.rate.nominal / 3);
    transport.playSpan(Math.max(0, frame - around), shot.rate.frameAt(look.end) + around, frame);
  }

  show() {
    const { open, at } = this;
    const all = this.parts.shot.looks.length;
    const look = open[at];
    this.part("count").textContent = all
      ? look
        ? gettext("{number} of {count}", { number: at + 1, count: open.length })
        : gettext("{count} left of {all}", { count: open.length, all })
      : gettext("none");
    this.part("look").textContent = look ? look.text.replace(/(?<![.!?”])$/, ".") : "";
    this.offer(look?.corrections || []);
    for (const button of /** @type {NodeListOf<HTMLButtonElement>} */ (this.root.querySelectorAll("[data-look]"))) {
      button.disabled = ["settle", "correct"].includes(button.dataset.look || "") ? !look : !open.length;
    }
  }

  /** A button for each likely correction. */
  offer(/** @type {import("./model.js").Correction[]} */ corrections) {
    const place = this.root.querySelector('[data-part="corrections"]');
    if (!place) return;
    place.replaceChildren(
      ...corrections.map((one, at) => {
        const button = document.createElement("button");
        button.type = "button";
        button.dataset.look = "correct";
        button.dataset.at = String(at);
        button.title = `${one.text} (Alt ${at + 1})`;
        button.textContent = one.text;
        return button;
      }),
    );
  }

  /** Make a correction and go to the next look; or open the place where the person decides. */
  correct(/** @type {number} */ at) {
    const { open, parts } = this;
    const look = open[this.at];
    const one = look?.corrections[at];
    if (!one || !parts.edits.may) return;
    if (!one.edit) {
      this.visit(look, one.goes);
      return;
    }
    const word = parts.shot.words.find((each) => each.id === one.parameters.word);
    const sent = parts.edits.send(.../** @type {ShotEdit} */ ([one.edit, one.parameters]));
    if (one.edit === "retype" && word) parts.alike?.offer(word.text, one.parameters.text, sent);
    this.settle();
  }

  /** Open the place where the person decides: the word, the stretch, or another page. */
  visit(/** @type {import("./model.js").Look} */ look, /** @type {string} */ goes) {
    const { shot, selection, words } = this.parts;
    const word = shot.words.find((one) => one.start === look.start && one.end === look.end);
    if (goes === "word") words.type(word);
    else if (goes === "add") {
      const [first, end] = [shot.rate.frameAt(look.start), shot.rate.frameAt(look.end - 1) + 1];
      selection.set(first, end);
      words.add();
    } else {
      const page = this.root.dataset[goes === "chart" ? `chart${look.who}` : goes] || this.root.dataset.chart || "";
      const url = new URL(page, window.location.href);
      if (goes === "pronounce" && word)
        url.searchParams.set("find", word.text.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, ""));
      window.location.assign(url);
    }
  }

  /** Settle it as fine; the next one takes its place in the list and becomes active. */
  settle() {
    const { open, at, parts } = this;
    if (at < 0 || !parts.edits.may) return;
    parts.edits.send("settle", { key: open[at].key });
    const next = this.open[Math.min(at, this.open.length - 1)];
    this.activeKey = next?.key || "";
    if (next) this.go(next);
    this.show();
  }
}
