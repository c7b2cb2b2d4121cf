/** The page behind a review link: the film frame by frame, remarks on frames, a decision for each shot. */

import { gettext } from "../lib/gettext.js";
import { Sketch } from "../lib/sketch.js";
import { Film } from "./model.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

/** @type {import("./model.js").ReviewDocument} */
const told = JSON.parse(find("#review-document").textContent);
const film = new Film(told);
const { dataset } = find("main");
/** How often to check whether a film is ready (milliseconds). */
const LOOK_MS = 3000;

/** @param {string} address @param {Record<string, unknown>} [sent] */
async function ask(address, sent) {
  const answer = await fetch(
    address,
    sent && {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRFToken": find("[name=csrfmiddlewaretoken]").value },
      body: JSON.stringify(sent),
    },
  );
  const found = await answer.json().catch(() => ({}));
  if (!answer.ok)
    throw new Error(found.error || gettext("This could not be sent. Check the connection, then try again."));
  return found;
}

class Player {
  constructor(/** @type {HTMLVideoElement} */ video) {
    this.video = video;
    this.isLooped = false;
    find("#at").max = String(Math.max(0, film.frames - 1));
    find("#at").addEventListener("input", () => this.go(Number(find("#at").value)));
    for (const button of document.querySelectorAll("[data-do]"))
      button.addEventListener("click", () => this.act(/** @type {HTMLElement} */ (button)));
    /**
     * The first frame (of the film) of a remark on a stretch; null for a remark on one frame. @type {number | null}
     */
    this.from = null;
    this.sketch = new Sketch(find("#sketch"), () => this.tools());
    new ResizeObserver(() => this.fit()).observe(video);
    video.addEventListener("loadedmetadata", () => this.fit());
    for (const kind of ["play", "pause", "seeked", "timeupdate"]) video.addEventListener(kind, () => this.show());
    document.addEventListener("keydown", (event) => this.key(event));
    this.follow();
    this.tools();
    this.show();
  }

  /** Toggle full screen; some phones can only show the film itself, without drawings. */
  fill() {
    const screen = find("#screen");
    if (document.fullscreenElement) document.exitFullscreen();
    else if (screen.requestFullscreen) screen.requestFullscreen();
    /** @type {any} */ else this.video.webkitEnterFullscreen?.();
  }

  /** Align the drawings with the picture, which may have bars at the sides or above and below. */
  fit() {
    const { video } = this;
    if (!video.videoWidth) return;
    const scale = Math.min(video.clientWidth / video.videoWidth, video.clientHeight / video.videoHeight);
    const [width, height] = [video.videoWidth * scale, video.videoHeight * scale];
    Object.assign(find("#sketch").style, {
      width: `${width}px`,
      height: `${height}px`,
      left: `${video.offsetLeft + (video.clientWidth - width) / 2}px`,
      top: `${video.offsetTop + (video.clientHeight - height) / 2}px`,
    });
  }

  /**
   * The frames of a remark: one, or from the chosen start to the current frame. @returns {[number, number]}
   */
  get stretch() {
    const { frame } = this;
    const shot = film.shotAt(frame);
    if (this.from === null || !shot || film.shotAt(this.from) !== shot) return [frame, frame];
    return this.from <= frame ? [this.from, frame] : [frame, this.from];
  }

  /** Update the tools: the chosen one, and whether there is something to undo. */
  tools() {
    const { kind, strokes } = this.sketch;
    find("[data-do=pen]").setAttribute("aria-pressed", String(kind === "pen"));
    find("[data-do=arrow]").setAttribute("aria-pressed", String(kind === "arrow"));
    find("[data-do=back-stroke]").hidden = !strokes.length;
    find("[data-do=from]").setAttribute("aria-pressed", String(this.from !== null));
  }

  /** Choose the pen or the arrow, or put it away. @param {"pen" | "arrow"} kind */
  draw(kind) {
    this.video.pause();
    this.sketch.take(this.sketch.kind === kind ? "" : kind);
  }

  get frame() {
    return film.frameAt(this.video.currentTime);
  }

  go(/** @type {number} */ frame) {
    this.video.currentTime = film.timeOf(Math.min(film.frames - 1, Math.max(0, frame)));
  }

  step(/** @type {number} */ by) {
    this.video.pause();
    this.go(this.frame + by);
  }

  toggle() {
    if (this.video.paused) this.video.play().catch(() => {});
    else this.video.pause();
  }

  act(/** @type {HTMLElement} */ button) {
    const does = /** @type {Record<string, () => void>} */ ({
      play: () => this.toggle(),
      back: () => this.step(-1),
      on: () => this.step(1),
      slow: () => {
        this.video.playbackRate = this.video.playbackRate === 1 ? 0.5 : 1;
        button.setAttribute("aria-pressed", String(this.video.playbackRate !== 1));
      },
      loop: () => {
        this.isLooped = !this.isLooped;
        button.setAttribute("aria-pressed", String(this.isLooped));
      },
      pen: () => this.draw("pen"),
      arrow: () => this.draw("arrow"),
      "back-stroke": () => this.sketch.takeBack(),
      from: () => {
        this.from = this.from === null ? this.frame : null;
      },
      full: () => this.fill(),
    });
    does[button.dataset.do || ""]?.();
    this.tools();
    this.show();
  }

  key(/** @type {KeyboardEvent} */ event) {
    if (event.target instanceof Element && event.target.closest("input:not([type=range]), textarea, button")) return;
    const does = /** @type {Record<string, () => void>} */ ({
      " ": () => this.toggle(),
      ArrowLeft: () => this.step(-1),
      ArrowRight: () => this.step(1),
    });
    if (!does[event.key]) return;
    event.preventDefault();
    does[event.key]();
  }

  /** During playback, check each frame: a looped shot restarts at its end. */
  follow() {
    const { frame } = this;
    if (this.isLooped && !this.video.paused) {
      const shot = this.looped || film.shotAt(frame);
      if (shot && frame >= shot.start + shot.frames - 1) this.go(shot.start);
      this.looped = shot;
    } else this.looped = null;
    if (!this.video.paused) this.show();
    requestAnimationFrame(() => this.follow());
  }

  show() {
    const { frame } = this;
    const shot = film.shotAt(frame);
    if (!shot) return;
    find("#at").value = String(frame);
    find("#where").textContent = `${shot.name} · ${film.label(frame)}`;
    find("[data-do=play]").textContent = this.video.paused ? gettext("Play") : gettext("Pause");
    find("#say-where").textContent = gettext("Remark on {shot}, frame {frame}", {
      shot: shot.name,
      frame: film.labels(...this.stretch),
    });
    const seen = this.video.paused ? film.remarksAt(told.remarks, frame).filter((one) => !one.settled) : [];
    this.sketch.show(seen.flatMap((one) => one.drawing));
    find("#shot").textContent = shot.name;
    find("#verdict").textContent =
      { approved: gettext("Approved"), changes: gettext("Changes requested"), "": gettext("Not decided yet") }[
        shot.verdict
      ] || "";
  }
}

class Said {
  constructor(/** @type {Player} */ player) {
    this.player = player;
    this.form = find("#say");
    this.name.value = localStorage.getItem("tinfork-review-name") || "";
    this.form.addEventListener("submit", (/** @type {SubmitEvent} */ event) => {
      event.preventDefault();
      this.send();
    });
    for (const button of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-verdict]")))
      button.addEventListener("click", () => this.decide(button.dataset.verdict || ""));
    this.lay();
  }

  /** @returns {HTMLInputElement} */
  get name() {
    return this.form.elements.namedItem("name");
  }

  /** Do something that may be refused, and show the reason. @param {() => Promise<void>} doing */
  async attempt(doing) {
    find("#trouble").textContent = "";
    try {
      localStorage.setItem("tinfork-review-name", this.name.value);
      await doing();
    } catch (error) {
      find("#trouble").textContent = /** @type {Error} */ (error).message;
    }
  }

  send() {
    const { player } = this;
    const [first, last] = player.stretch;
    const shot = film.shotAt(first);
    const text = this.form.elements.namedItem("text");
    player.video.pause();
    return this.attempt(async () => {
      const sent = {
        shot: shot.id,
        frame: first - shot.start,
        last: last - shot.start,
        name: this.name.value,
        text: text.value,
        drawing: player.sketch.strokes,
      };
      told.remarks = (await ask(dataset.remarks || "", sent)).remarks;
      text.value = "";
      player.from = null;
      player.sketch.take("");
      player.sketch.clear();
      player.show();
      this.lay();
    });
  }

  decide(/** @type {string} */ verdict) {
    const shot = film.shotAt(this.player.frame);
    if (!this.name.reportValidity()) return;
    this.attempt(async () => {
      shot.verdict = (await ask(dataset.decide || "", { shot: shot.id, verdict, name: this.name.value })).verdict;
      this.player.show();
    });
  }

  /** @param {import("./model.js").Remark} remark @param {HTMLInputElement} field */
  answer(remark, field) {
    if (!this.name.reportValidity()) return;
    this.attempt(async () => {
      told.remarks = (
        await ask(dataset.remarks || "", { answers_to: remark.id, name: this.name.value, text: field.value })
      ).remarks;
      this.lay();
    });
  }

  lay() {
    const all = told.remarks
      .map((remark) => ({ remark, frame: film.frameOf(remark) }))
      .sort((a, b) => a.frame - b.frame);
    find("#remarks").replaceChildren(...all.map(({ remark, frame }) => this.row(remark, frame)));
    const marks = all.map(({ frame }) => place("i", frame));
    find("#marks").replaceChildren(...marks, ...film.shots.slice(1).map((shot) => place("b", shot.start)));
  }

  /** @param {import("./model.js").Remark} remark @param {number} frame */
  row(remark, frame) {
    const row = /** @type {HTMLElement} */ (find("#remark").content.firstElementChild.cloneNode(true));
    const go = /** @type {HTMLElement} */ (row.querySelector(".go"));
    go.textContent = film.labels(frame, frame + remark.last - remark.frame);
    go.setAttribute("aria-label", gettext("Go to frame {frame}", { frame: film.label(frame) }));
    go.addEventListener("click", () => {
      this.player.video.pause();
      this.player.go(frame);
    });
    row.classList.toggle("is-settled", remark.settled);
    const news = [
      remark.settled && gettext("settled"),
      remark.changed && gettext("the mouths were changed since"),
    ].filter(Boolean);
    /** @type {HTMLElement} */ (row.querySelector(".news")).textContent = news.join(", ");
    const form = /** @type {HTMLFormElement} */ (row.querySelector("form"));
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      this.answer(remark, /** @type {HTMLInputElement} */ (form.elements.namedItem("answer")));
    });
    /** @type {HTMLElement} */ (row.querySelector("strong")).textContent = remark.name;
    const said = [remark.text, ...remark.answers.map((one) => `${one.name}: ${one.text}`)];
    /** @type {HTMLElement} */ (row.querySelector("p")).textContent = said.join("\n");
    return row;
  }
}

/** A mark on the film's timeline. @param {string} kind @param {number} frame */
function place(kind, frame) {
  const mark = document.createElement(kind);
  mark.style.left = `${(100 * frame) / Math.max(1, film.frames - 1)}%`;
  return mark;
}

const video = find("#film");
if (video) new Said(new Player(video));
else if (find("#waits")) {
  setInterval(async () => {
    if ((await fetch(dataset.film || "", { headers: { Range: "bytes=0-0" } })).ok) window.location.reload();
  }, LOOK_MS);
}
