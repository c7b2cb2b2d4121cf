/** Recording: choosing a microphone, its level, count-in, several takes and comparing them. */
import { CountIn } from "../lib/countin.js";
import { refusal } from "../lib/devices.js";
import { gettext, ngettext } from "../lib/gettext.js";
import { Listening } from "../lib/listening.js";
import { Scope } from "../lib/scope.js";
import { drawWave } from "../lib/wave.js";
import { Microphone, microphones, STAND_IN } from "./microphone.js";
import { forgetUnsent, keepUnsent, unsentOf } from "./store.js";
import { levelDb, wavOf } from "./wav.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));
const MOST_S = 60 * 60;

/**
 * @typedef {{id: string, name: string, chunks: Float32Array[], rateHz: number, url: string, element: HTMLElement}}
 * Recorded
 */

/** Join blocks of samples. */
function joined(/** @type {Float32Array[]} */ chunks) {
  const all = new Float32Array(chunks.reduce((sum, chunk) => sum + chunk.length, 0));
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}

class RecordPage {
  constructor() {
    this.root = find("#record");
    this.scope = new Scope();
    this.microphone = new Microphone({ worklet: this.root.dataset.worklet, sample: this.root.dataset.sample });
    this.listening = new Listening();
    /** @type {Float32Array[] | null} */
    this.chunks = null;
    this.samples = 0;
    this.peak = -90;
    /** @type {Recorded[]} */
    this.takes = [];
    this.number = 0;
    this.meter = 0;
    this.line = -1;
    this.counting = new CountIn(() => this.microphone.context);
    this.microphone.onBlock = (block) => this.hear(block);
    this.microphone.onLost = () => this.lost();
    this.wire();
  }

  wire() {
    const { scope } = this;
    scope.listen(find("#microphone"), "change", () => this.open());
    scope.listen(find("#record-button"), "click", () => this.toggle());
    scope.listen(find("#keep"), "click", () => this.keep());
    scope.listen(document, "keydown", (event) => this.key(event));
    for (const [at, line] of this.lines.entries()) scope.listen(line, "click", () => this.choose(at));
    this.choose(0);
    scope.listen(window, "pagehide", () => {
      this.microphone.close();
      scope.dispose();
    });
    scope.listen(window, "beforeunload", (event) => {
      if (this.chunks || this.takes.length) event.preventDefault();
    });
    this.meter = requestAnimationFrame(() => this.show());
    scope.add(() => cancelAnimationFrame(this.meter));
    this.listMicrophones();
    this.restore();
  }

  /** Takes recorded here before that are not in the library yet. */
  async restore() {
    const found = await unsentOf(this.root.dataset.place || "").catch(() => []);
    for (const take of found) this.list({ id: take.id, name: take.name, chunks: [take.samples], rateHz: take.rateHz });
    if (found.length)
      this.say(
        ngettext(
          "{count} earlier take is not saved yet: it exists only in this browser.",
          "{count} earlier takes are not saved yet: they exist only in this browser.",
          found.length,
        ),
      );
    this.root.dataset.broughtBack = String(found.length);
  }

  get lines() {
    return /** @type {HTMLElement[]} */ ([...document.querySelectorAll("#record-lines li")]);
  }

  say(/** @type {string} */ text) {
    find("#record-said").textContent = text;
  }

  async listMicrophones() {
    const select = find("#microphone");
    const chosen = select.value;
    const found = await microphones();
    for (const option of [...select.options]) if (option.dataset.device) option.remove();
    for (const { id, name } of found) {
      const option = new Option(name, id);
      option.dataset.device = "true";
      select.add(option);
    }
    if ([...select.options].some((option) => option.value === chosen)) select.value = chosen;
  }

  /** Open the chosen microphone; true if it works. */
  async open() {
    const id = find("#microphone").value;
    if (!id) {
      this.microphone.close();
      return false;
    }
    try {
      await this.microphone.open(id === "any" ? "" : id);
    } catch (error) {
      this.microphone.close();
      this.say(refusal(error, gettext("microphone"), gettext("use the stand-in")));
      find("#microphone").value = "";
      return false;
    }
    this.say("");
    this.root.dataset.open = id;
    if (id !== STAND_IN) await this.listMicrophones();
    return true;
  }

  hear(/** @type {Float32Array} */ block) {
    this.peak = Math.max(this.peak, levelDb(block));
    if (!this.chunks) return;
    this.chunks.push(block);
    this.samples += block.length;
    if (this.samples / this.microphone.rateHz > MOST_S) {
      this.stop();
      this.say(gettext("Recording stopped at one hour, the longest take. The take is below."));
    }
  }

  /** The level falls slowly, so that peaks are readable. */
  show() {
    const meter = find("#level");
    const shown = Math.max(this.peak, Number(meter.value) - 1.2);
    meter.value = shown;
    find("#level-text").textContent = shown <= -89 ? "–" : `${Math.round(shown)} dB`;
    meter.dataset.hot = String(shown > -3);
    this.peak = -90;
    if (this.chunks) find("#record-time").textContent = `${(this.samples / this.microphone.rateHz).toFixed(1)} s`;
    this.meter = requestAnimationFrame(() => this.show());
  }

  async toggle() {
    if (this.chunks) this.stop();
    else if (this.counting.isCounting) this.cancelCount();
    else await this.begin();
  }

  async begin() {
    this.listening.stop();
    if (!this.microphone.context && !(await this.open())) {
      if (!find("#record-said").textContent) this.say(gettext("Choose a microphone first."));
      return;
    }
    this.countIn(Number(find("#count-in").value));
  }

  countIn(/** @type {number} */ beats) {
    const button = find("#record-button");
    this.counting.start(
      beats,
      (beat) => {
        if (beat) button.textContent = String(beat);
      },
      () => this.record(),
    );
  }

  cancelCount() {
    this.counting.cancel();
    find("#record-button").textContent = gettext("Record");
  }

  record() {
    this.chunks = [];
    this.samples = 0;
    const button = find("#record-button");
    button.textContent = gettext("Stop");
    button.setAttribute("aria-pressed", "true");
  }

  stop() {
    const chunks = this.chunks;
    this.chunks = null;
    const button = find("#record-button");
    button.textContent = gettext("Record");
    button.setAttribute("aria-pressed", "false");
    if (chunks?.length && this.samples > this.microphone.rateHz / 10) this.add(chunks);
    else this.say(gettext("Too short: a take lasts at least 0.1 s."));
  }

  /** The microphone was unplugged: keep the recording. */
  lost() {
    const had = Boolean(this.chunks);
    if (had) this.stop();
    this.microphone.close();
    find("#microphone").value = "";
    this.say(
      had
        ? gettext("The microphone was unplugged. What was recorded is below.")
        : gettext("The microphone was unplugged. Choose another one."),
    );
  }

  add(/** @type {Float32Array[]} */ chunks) {
    this.number += 1;
    const rateHz = this.microphone.rateHz;
    const words = this.lines[this.line]?.dataset.text || "";
    const name = [
      gettext("Take {number}", { number: this.number }),
      ...(words ? [words.slice(0, 40).trim()] : []),
    ].join(", ");
    const id = `${new Date().toISOString()} ${crypto.getRandomValues(new Uint32Array(1))[0]}`;
    this.list({ id, name, chunks, rateHz });
    this.say("");
    this.keepHere({ id, name, chunks, rateHz });
  }

  /** Until it is uploaded, a take is stored in this browser, even over a reload. */
  async keepHere(/** @type {{id: string, name: string, chunks: Float32Array[], rateHz: number}} */ take) {
    try {
      await keepUnsent({
        id: take.id,
        place: this.root.dataset.place || "",
        name: take.name,
        rateHz: take.rateHz,
        samples: joined(take.chunks),
      });
      this.root.dataset.keptHere = take.id;
    } catch {
      this.say(gettext("This browser has no room to store the take. Save it before you leave this page."));
    }
  }

  /** Show a recorded take. */
  list(/** @type {{id: string, name: string, chunks: Float32Array[], rateHz: number}} */ { id, name, chunks, rateHz }) {
    const element = find("#record-take").content.firstElementChild.cloneNode(true);
    const take = {
      id,
      name,
      chunks,
      rateHz,
      url: URL.createObjectURL(new Blob([wavOf(chunks, rateHz)], { type: "audio/wav" })),
      element,
    };
    this.takes.push(take);
    element.querySelector("input[type=text]").value = name;
    element.querySelector(".mono").textContent =
      `${(chunks.reduce((sum, chunk) => sum + chunk.length, 0) / rateHz).toFixed(1)} s`;
    element.querySelector(".play-button").addEventListener("click", () => this.hearTake(take));
    element.querySelector(".drop-take").addEventListener("click", () => this.drop(take));
    find("#record-takes").append(element);
    this.drawTake(take);
    this.showKeep();
  }

  drawTake(/** @type {Recorded} */ take) {
    const all = joined(take.chunks);
    const loudest = Math.max(8, all.reduce((most, value) => Math.max(most, Math.abs(value)), 0) * 127);
    const range = (/** @type {number} */ from, /** @type {number} */ to) => {
      let [low, high] = [0, 0];
      for (let n = Math.floor(from * all.length); n < to * all.length; n += 4) {
        low = Math.min(low, all[n]);
        high = Math.max(high, all[n]);
      }
      return [low * 127, high * 127];
    };
    const colour = getComputedStyle(document.documentElement).getPropertyValue("--wave").trim();
    drawWave(/** @type {HTMLCanvasElement} */ (take.element.querySelector("canvas")), range, { colour, loudest });
  }

  hearTake(/** @type {Recorded} */ take) {
    const button = /** @type {HTMLElement} */ (take.element.querySelector(".play-button"));
    if (button.hasAttribute("data-playing")) {
      this.listening.stop();
      return;
    }
    this.listening.onState = (playing) => {
      for (const other of document.querySelectorAll("#record-takes .play-button"))
        other.toggleAttribute("data-playing", playing && other === button);
    };
    this.listening.play(take.url);
  }

  drop(/** @type {Recorded} */ take) {
    forgetUnsent(take.id).catch(() => {});
    this.takes = this.takes.filter((other) => other !== take);
    URL.revokeObjectURL(take.url);
    take.element.remove();
    this.showKeep();
  }

  showKeep() {
    find("#keep").disabled = !this.takes.length;
    find("#record-empty").hidden = Boolean(this.takes.length);
  }

  choose(/** @type {number} */ at) {
    if (at < 0 || at >= this.lines.length) return;
    this.lines[this.line]?.removeAttribute("aria-current");
    this.line = at;
    this.lines[at].setAttribute("aria-current", "true");
    this.lines[at].scrollIntoView({ block: "nearest" });
  }

  key(/** @type {KeyboardEvent} */ event) {
    const target = /** @type {Element} */ (event.target);
    if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input, select, textarea, button, a")) return;
    if (event.key === "r") this.toggle();
    else if (event.key === "ArrowDown") this.choose(this.line + 1);
    else if (event.key === "ArrowUp") this.choose(this.line - 1);
    else return;
    event.preventDefault();
  }

  /** Upload the ticked takes to the library and their shot; nothing is lost on a failure. */
  async keep() {
    const ticked = this.takes.filter(
      (take) => /** @type {HTMLInputElement} */ (take.element.querySelector("input[type=checkbox]")).checked,
    );
    if (!ticked.length) {
      this.say(gettext("Tick the takes to save."));
      return;
    }
    const form = find("#keep-form");
    const body = new FormData(form);
    body.set("source", "recorded");
    for (const take of ticked) {
      const name =
        /** @type {HTMLInputElement} */ (take.element.querySelector("input[type=text]")).value.trim() || take.name;
      body.append("sound", new File([wavOf(take.chunks, take.rateHz)], `${name}.wav`, { type: "audio/wav" }));
    }
    find("#keep").disabled = true;
    let answer;
    try {
      answer = await fetch(form.action, { method: "POST", body, headers: { Accept: "application/json" } });
    } catch {
      this.say(gettext("Connection lost. The takes are still here; try again."));
    }
    find("#keep").disabled = false;
    if (!answer) return;
    const told = await answer.json().catch(() => null);
    if (!answer.ok || !told) {
      this.say(told?.error || gettext("The takes could not be saved. They are still here; try again."));
      return;
    }
    for (const take of ticked) this.drop(take);
    if (this.takes.length)
      this.say(gettext("{count} saved to the library; the others are still here.", { count: ticked.length }));
    else window.location.assign(form.dataset.next || told.next);
  }
}

new RecordPage();
document.documentElement.dataset.record = "ready";
