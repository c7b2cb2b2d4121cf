/** The guide at a set: frame by frame, by touch, keyboard or a presenter's remote; works offline once loaded. */

import { gettext } from "../lib/gettext.js";
import { holdOn, left, nextChange, saidOn, stretches } from "./model.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

/** @type {import("./model.js").SetDocument} */
const shot = JSON.parse(find("#set-document").textContent);
const KEY = `tin-fork set ${window.location.pathname.startsWith("/set/") ? shot.production : ""} ${shot.shot} ${shot.frames}`;
/** The shortest piece of sound that is played (seconds). */
const LEAST_S = 0.06;

class Guide {
  constructor() {
    const kept = read();
    this.frame = Math.min(shot.frames - 1, kept.frame);
    this.marked = new Set(kept.marked.filter((frame) => frame < shot.frames));
    this.hasSound = true;
    /** @type {AudioContext | null} */
    this.context = null;
    /** @type {ArrayBuffer | null} */
    this.bytes = null;
    /** @type {AudioBuffer | null} */
    this.buffer = null;
    this.cards = shot.columns.map((column) => this.build(column));
    this.show();
  }

  /** The cards of a column. */
  build(/** @type {import("./model.js").Column} */ column) {
    const element = /** @type {HTMLElement} */ (find("#column").content.firstElementChild.cloneNode(true));
    /** @type {HTMLElement} */ (element.querySelector("h2")).textContent = column.name;
    element.classList.toggle("small", shot.columns.length > 1);
    find("#columns").append(element);
    return { column, figures: /** @type {HTMLElement[]} */ ([...element.querySelectorAll("figure")]) };
  }

  show() {
    const { frame } = this;
    for (const { column, figures } of this.cards) {
      const at = holdOn(column.holds, frame);
      figures.forEach((figure, index) => fill(figure, column, column.holds[at + index - 1]));
      /** @type {HTMLElement} */ (figures[1].querySelector(".left")).textContent = left(
        column.holds[at].end - frame - 1,
      );
    }
    const { word, sounds } = saidOn(shot.heard, frame);
    find("#word").textContent = word;
    find("#ipa").textContent = sounds;
    find("#note").textContent = shot.notes
      .filter((note) => note.frame === frame)
      .map((note) => note.text)
      .join(" / ");
    if (document.activeElement !== find("#frame")) find("#frame").value = String(shot.firstFrame + frame);
    find("#of").textContent =
      `frame ${shot.firstFrame + frame} of ${shot.firstFrame}–${shot.firstFrame + shot.frames - 1}`;
    find("#shot-count").textContent = `${this.marked.size} of ${shot.frames} shot`;
    find('[data-do="mark"]').setAttribute("aria-pressed", String(this.marked.has(frame)));
    find('[data-do="mark"]').textContent = this.marked.has(frame) ? gettext("Shot") : gettext("Mark as shot");
    const share = (/** @type {number} */ n) => `${(100 * n) / shot.frames}%`;
    const spans = stretches(this.marked).map(([start, end]) => {
      const span = document.createElement("i");
      Object.assign(span.style, { left: share(start), width: share(end - start) });
      return span;
    });
    const now = document.createElement("b");
    now.style.left = share(frame + 0.5);
    find("#line").replaceChildren(...spans, now);
    document.documentElement.dataset.frame = String(frame);
    window.localStorage.setItem(KEY, JSON.stringify({ frame, marked: [...this.marked] }));
  }

  to(/** @type {number} */ frame) {
    const wanted = Math.max(0, Math.min(shot.frames - 1, frame));
    if (wanted === this.frame) return;
    this.frame = wanted;
    this.show();
    this.sound();
    const mouth = this.cards[0].column;
    const drawing = mouth.drawings[mouth.holds[holdOn(mouth.holds, wanted)].drawing];
    find("#say").textContent =
      `${gettext("Frame {frame}", { frame: shot.firstFrame + wanted })}, ${drawing ? gettext("drawing {number}", { number: drawing.number }) : gettext("no mouth")}`;
  }

  /** Mark the frame as shot and go on, or remove the mark. */
  mark() {
    if (this.marked.delete(this.frame)) this.show();
    else {
      this.marked.add(this.frame);
      this.show();
      this.to(this.frame + 1);
    }
  }

  /** Load the whole sound while there is a connection. */
  async load() {
    this.bytes = await fetch(document.body.dataset.sound || "")
      .then((answer) => (answer.ok ? answer.arrayBuffer() : null))
      .catch(() => null);
    document.documentElement.dataset.set = "ready";
  }

  /** Play the frame's sound. Browsers allow that only after a touch. */
  async sound() {
    if (!this.hasSound || !this.bytes) return;
    this.context ||= new AudioContext();
    this.buffer ||= await this.context.decodeAudioData(this.bytes.slice(0)).catch(() => null);
    if (!this.buffer) return;
    const seconds = shot.rate[1] / shot.rate[0];
    const source = this.context.createBufferSource();
    source.buffer = this.buffer;
    source.connect(this.context.destination);
    source.start(0, this.frame * seconds, Math.max(LEAST_S, seconds));
    document.documentElement.dataset.sounded = String(this.frame);
  }
}

/** The content of a hold's card; empty before the first and after the last. */
function fill(
  /** @type {HTMLElement} */ figure,
  /** @type {import("./model.js").Column} */ column,
  /** @type {import("./model.js").Hold | undefined} */ hold,
) {
  const image = /** @type {HTMLImageElement} */ (figure.querySelector("img"));
  const drawing = hold ? column.drawings[hold.drawing] : undefined;
  figure.classList.toggle("none", !drawing);
  image.hidden = !drawing;
  if (drawing && image.src !== drawing.picture) image.src = drawing.picture;
  image.alt = drawing ? drawing.name : "";
  const set = drawing?.set ? `·${[...drawing.set][0]}` : "";
  /** @type {HTMLElement} */ (figure.querySelector("figcaption")).textContent = drawing
    ? `${drawing.number}${set}`
    : hold
      ? "–"
      : "";
}

/** @returns {{frame: number, marked: number[]}} where it stopped last, on this device */
function read() {
  try {
    const kept = JSON.parse(window.localStorage.getItem(KEY) || "");
    if (Number.isInteger(kept.frame) && Array.isArray(kept.marked))
      return { frame: Math.max(0, kept.frame), marked: kept.marked.filter(Number.isInteger) };
  } catch {
    // Nothing is stored yet.
  }
  return { frame: 0, marked: [] };
}

/** Keep the screen on while the guide is visible. */
async function stayAwake() {
  if (document.visibilityState !== "visible") return;
  await /** @type {any} */ (navigator).wakeLock?.request("screen").catch(() => null);
}

const guide = new Guide();
/** @type {Record<string, () => void>} */
const does = {
  on: () => guide.to(guide.frame + 1),
  back: () => guide.to(guide.frame - 1),
  later: () => guide.to(nextChange(shot.columns, guide.frame, 1)),
  earlier: () => guide.to(nextChange(shot.columns, guide.frame, -1)),
  first: () => guide.to(0),
  last: () => guide.to(shot.frames - 1),
  mark: () => guide.mark(),
  sound: () => {
    guide.hasSound = !guide.hasSound;
    find('[data-do="sound"]').setAttribute("aria-pressed", String(guide.hasSound));
  },
  full: () => (document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen()),
};
/** A presenter's remote sends Page up and Page down. */
/** @type {Record<string, string>} */
const KEYS = {
  ArrowRight: "on",
  PageDown: "on",
  " ": "on",
  ArrowLeft: "back",
  PageUp: "back",
  ArrowDown: "later",
  ArrowUp: "earlier",
  Home: "first",
  End: "last",
  m: "mark",
  Enter: "mark",
  s: "sound",
  f: "full",
  ".": "full",
};
for (const button of document.querySelectorAll("[data-do]")) {
  button.addEventListener("click", () => {
    does[String(/** @type {HTMLElement} */ (button).dataset.do)]();
    /** @type {HTMLElement} */ (button).blur();
  });
}
document.addEventListener("keydown", (event) => {
  const name = KEYS[event.key];
  if (event.target === find("#frame")) {
    if (event.key === "Enter") {
      const wanted = Number(find("#frame").value);
      find("#frame").blur();
      if (Number.isInteger(wanted)) guide.to(wanted - shot.firstFrame);
      guide.show();
    }
    return;
  }
  if (!name || event.ctrlKey || event.metaKey || event.altKey || event.target instanceof HTMLButtonElement) return;
  event.preventDefault();
  does[name]();
});
find("#columns").addEventListener("click", (/** @type {MouseEvent} */ event) =>
  event.clientX > window.innerWidth / 3 ? does.on() : does.back(),
);
document.addEventListener("visibilitychange", stayAwake);
stayAwake();
guide.load();
