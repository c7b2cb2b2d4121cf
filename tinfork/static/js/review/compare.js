// Two states of a shot in one film, before on the left and after on the right, so that they stay in sync.
import { gettext } from "../lib/gettext.js";
import { Comparison } from "./comparison.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));
/** How long each is shown when alternating (seconds). */
const TURN_S = 0.7;

class Screen {
  constructor(/** @type {Comparison} */ both) {
    this.both = both;
    this.way = "beside";
    /** @type {HTMLVideoElement} */
    this.video = find("#film");
    /** @type {HTMLCanvasElement} */
    this.canvas = find("#both");
    find("#at").max = String(both.frames - 1);
    find("#at").addEventListener("input", () => this.go(Number(find("#at").value)));
    find("#edge").addEventListener("input", () => this.draw());
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-way]")))
      button.addEventListener("click", () => this.show(button.dataset.way || "beside"));
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-do]")))
      button.addEventListener("click", () => this.act(button.dataset.do || ""));
    document.addEventListener("keydown", (event) => this.key(event));
    this.stretches();
    this.show("beside");
    this.follow();
  }

  get frame() {
    return this.both.frameAt(this.video.currentTime);
  }

  go(/** @type {number} */ frame) {
    this.video.pause();
    this.video.currentTime = this.both.timeOf(frame);
  }

  act(/** @type {string} */ name) {
    if (name === "play") this.video.paused ? this.video.play().catch(() => {}) : this.video.pause();
    else if (name === "next") this.go(this.both.nextDifference(this.frame));
    else this.go(this.frame + (name === "on" ? 1 : -1));
  }

  key(/** @type {KeyboardEvent} */ event) {
    if (event.target instanceof Element && event.target.closest("button, input")) return;
    const name = /** @type {Record<string, string>} */ ({
      " ": "play",
      ArrowLeft: "back",
      ArrowRight: "on",
      n: "next",
    })[event.key];
    if (!name) return;
    event.preventDefault();
    this.act(name);
  }

  show(/** @type {string} */ way) {
    this.way = way;
    find(".compare").dataset.way = way;
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-way]:is(button)")))
      button.setAttribute("aria-pressed", String(button.dataset.way === way));
    this.draw();
  }

  stretches() {
    const { differs, frames } = this.both;
    const count = differs.reduce((sum, [first, end]) => sum + end - first, 0);
    find("#differs").textContent = count
      ? gettext("{count} of {frames} frames differ", { count, frames })
      : gettext("They look the same on every frame");
    find("[data-do=next]").hidden = !count;
    find("#stretches").replaceChildren(
      ...differs.map(([first, end]) => {
        const mark = document.createElement("i");
        mark.style.left = `${(100 * first) / frames}%`;
        mark.style.width = `${(100 * (end - first)) / frames}%`;
        return mark;
      }),
    );
  }

  follow() {
    this.draw();
    requestAnimationFrame(() => this.follow());
  }

  draw() {
    const { video, canvas, frame } = this;
    const [width, height] = [video.videoWidth / 2, video.videoHeight];
    find("#at").value = String(frame);
    find("#where").textContent = this.both.label(frame);
    find("[data-do=play]").textContent = video.paused ? gettext("Play") : gettext("Pause");
    if (!width) return;
    const wide = this.way === "beside" ? 2 * width : width;
    if (canvas.width !== wide || canvas.height !== height) Object.assign(canvas, { width: wide, height });
    const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
    /** @param {number} half 0: before, 1: after @param {number} from @param {number} to shares of the picture */
    const part = (half, from, to, at = 0) =>
      context.drawImage(
        video,
        (half + from) * width,
        0,
        (to - from) * width,
        height,
        (at + from) * width,
        0,
        (to - from) * width,
        height,
      );
    if (this.way === "beside") {
      part(0, 0, 1);
      part(1, 0, 1, 1);
    } else if (this.way === "wipe") {
      const edge = Number(find("#edge").value) / 100;
      part(0, 0, 1);
      if (edge < 1) part(1, edge, 1);
      context.fillStyle = "#fff";
      context.fillRect(edge * width - 1, 0, 2, height);
    } else part(Math.floor(performance.now() / 1000 / TURN_S) % 2, 0, 1);
  }
}

const told = find("#comparison-document");
if (told) new Screen(new Comparison(JSON.parse(told.textContent)));
