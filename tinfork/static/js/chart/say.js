/** Trying a chart: plays a synthesised sentence and shows the mouth at the sound's time. */
import { FrameRate } from "../lib/clock.js";
import { gettext, ngettext } from "../lib/gettext.js";
import { lastStarted } from "../lib/intervals.js";
import { fitted, lay, put } from "../lib/lay.js";
import { load } from "../lib/spoken.js";

export class Say {
  /**
   * @param {HTMLElement} root
   * @param {{place: import("../lib/lay.js").Place, drawings: any[], resting: number | null}} stage
   * @param {{say: string, csrf: string}} addresses
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, stage, addresses, scope) {
    this.root = root;
    this.stage = stage;
    this.addresses = addresses;
    this.part = (/** @type {string} */ name) => /** @type {any} */ (root.querySelector(`[data-part="${name}"]`));
    this.audio = /** @type {HTMLAudioElement} */ (this.part("sound"));
    /** @type {Map<number, HTMLImageElement>} */
    this.images = new Map();
    /** @type {Array<{start: number, end: number, drawing: number}>} */
    this.holds = [];
    this.rate = new FrameRate(24, 1);
    this.shown = stage.resting || 0;
    this.root.dataset.drawing = String(this.shown);
    this.build();
    scope.onResize(root, () => this.layOut());
    scope.listen(this.part("say"), "submit", (event) => this.ask(event));
    scope.listen(this.audio, "ended", () => this.show(this.stage.resting || 0));
    scope.add(() => this.audio.pause());
  }

  build() {
    for (const drawing of this.stage.drawings) {
      const image = new Image();
      image.src = drawing.url;
      image.alt = "";
      image.hidden = drawing.id !== this.stage.resting;
      this.part("mouths").append(image);
      this.images.set(drawing.id, image);
    }
    this.layOut();
  }

  layOut() {
    const frame = /** @type {HTMLElement} */ (this.root.querySelector(".stage")).getBoundingClientRect();
    const face = /** @type {HTMLElement | null} */ (this.root.querySelector(".stage .face"));
    const fit = fitted(frame.width, frame.height, this.stage.place.aspect);
    if (face)
      Object.assign(face.style, {
        left: `${fit.left}px`,
        top: `${fit.top}px`,
        width: `${fit.width}px`,
        height: `${fit.height}px`,
      });
    for (const drawing of this.stage.drawings) {
      put(
        /** @type {HTMLImageElement} */ (this.images.get(drawing.id)),
        lay(this.stage.place, drawing, frame.width, frame.height),
      );
    }
  }

  /** @param {SubmitEvent} event */
  async ask(event) {
    event.preventDefault();
    const form = /** @type {HTMLFormElement} */ (event.target);
    const button = /** @type {HTMLButtonElement} */ (form.querySelector("button"));
    button.disabled = true;
    try {
      const headers = { "X-CSRFToken": this.addresses.csrf };
      const response = await fetch(this.addresses.say, {
        method: "POST",
        body: new URLSearchParams(/** @type {any} */ (new FormData(form))),
        headers,
      });
      const answer = await response.json();
      if (response.ok) await this.play(answer);
      else this.tell(answer.error, true);
    } catch {
      this.tell(gettext("That failed. Try again."), true);
    }
    button.disabled = false;
  }

  /** @param {{sound: string, rate: number[], holds: any[], gaps: string[]}} answer */
  async play(answer) {
    load(this.audio, answer.sound);
    this.holds = answer.holds;
    this.rate = new FrameRate(answer.rate[0], answer.rate[1]);
    const gaps = answer.gaps.length;
    this.tell(
      gaps
        ? ngettext(
            "{count} group of sounds shown by the closest drawing: {sounds}",
            "{count} groups of sounds shown by the closest drawing: {sounds}",
            gaps,
            { sounds: answer.gaps.join(" · ") },
          )
        : gettext("Every sound in this sentence has its own drawing."),
      gaps > 0,
    );
    await this.audio.play();
    this.follow();
  }

  follow() {
    if (this.audio.paused || this.audio.ended) return;
    const frame = this.rate.frameAt(Math.round(this.audio.currentTime * 1e6));
    const hold = this.holds[Math.max(0, lastStarted(this.holds, frame))];
    this.show(hold.drawing);
    this.root.dataset.frame = String(frame);
    requestAnimationFrame(() => this.follow());
  }

  show(/** @type {number} */ drawing) {
    if (drawing === this.shown) return;
    const [before, now] = [this.images.get(this.shown), this.images.get(drawing)];
    if (before) before.hidden = true;
    if (now) now.hidden = false;
    this.shown = drawing;
    this.root.dataset.drawing = String(drawing);
  }

  /**
   * @param {string} text
   * @param {boolean} doubt
   */
  tell(text, doubt) {
    this.part("gaps").textContent = text;
    this.part("gaps").classList.toggle("doubt", doubt);
  }
}
