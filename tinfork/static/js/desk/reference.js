/**
 * The reference film: recorded with the camera or uploaded, shown beside the Stage in sync with the sound; live columns
 * follow its face. The server renders its panel.
 */
import { BEATS, CountIn, showBeat } from "../lib/countin.js";
import { gettext } from "../lib/gettext.js";
import { ReelView } from "../lib/reel.js";
import { Scope } from "../lib/scope.js";

const KINDS = ["video/webm;codecs=vp8", "video/webm", "video/mp4"];
const LOST = gettext("The film could not be uploaded. This page still has it: try again once you are back online.");

export class ReferenceFilm {
  /**
   * @param {HTMLDetailsElement} root
   * @param {HTMLElement} figure where it is seen
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport, camera: import("./camera.js").CameraMirror,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>, token: string, said: (text: string) => void, changed: () => void,
   *   edits: import("./edits.js").Edits, isLocked: (part: string) => boolean}} parts `changed`: there is another room for the picture
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, figure, parts, scope) {
    this.root = root;
    this.figure = figure;
    this.parts = parts;
    /** @type {Scope | null} of the film in sight */
    this.seen = null;
    this.shown = "";
    /** @type {{film: File, begins_us: number} | null} what could not be sent yet */
    this.unsent = null;
    /** @type {MediaRecorder | null} */
    this.recorder = null;
    this.counting = new CountIn(() => parts.transport.hearing?.open() || null);
    scope.listen(document, "htmx:after:swap", () => this.adopt());
    scope.listen(root, "click", (event) => this.press(/** @type {HTMLElement} */ (event.target)));
    scope.listen(root, "change", (event) => {
      const field = event.target;
      if (field instanceof HTMLInputElement && field.dataset.filmPost)
        this.post(field.dataset.filmPost, { [field.name]: field.value });
    });
    // Enter in a field of this panel must not edit the moved part.
    scope.listen(root, "keydown", (event) => {
      if (/** @type {KeyboardEvent} */ (event).key === "Enter" && event.target instanceof HTMLInputElement) {
        event.preventDefault();
        event.target.blur();
      }
    });
    scope.add(parts.activeCharacter.follow(() => this.adopt()));
    scope.add(() => {
      this.counting.cancel();
      this.recorder?.stop();
      this.seen?.dispose();
    });
    scope.add(
      parts.transport.playing.follow((playing) => {
        if (!playing && this.recorder?.state === "recording") this.recorder.stop();
      }),
    );
  }

  get panel() {
    return this.root.querySelector("#reference-panel");
  }

  /** Update from the server's panel: the film, and the columns of the active character. */
  adopt() {
    const { panel } = this;
    if (!(panel instanceof HTMLElement)) return;
    for (const row of panel.querySelectorAll("tr[data-character]")) {
      /** @type {HTMLElement} */ (row).hidden =
        /** @type {HTMLElement} */ (row).dataset.character !== String(this.parts.activeCharacter.value.id);
    }
    const { film = "", begins = "0", lasts = "0", name = "" } = panel.dataset;
    const shown = `${film} ${begins}`;
    if (shown === this.shown) return;
    this.shown = shown;
    this.seen?.dispose();
    this.seen = null;
    this.figure.hidden = !film;
    if (film) {
      this.seen = new Scope();
      const reel = { url: film, name, fromUs: -Number(begins), durationUs: Number(lasts) };
      new ReelView(this.figure, reel, this.parts.shot, this.parts.transport, this.seen);
      /** @type {HTMLElement} */ (this.figure.querySelector("figcaption")).textContent = name;
    }
    this.parts.changed();
  }

  press(/** @type {HTMLElement} */ target) {
    const what = target.closest("[data-film-do]")?.getAttribute("data-film-do");
    const address = target.closest("button[data-film-post]")?.getAttribute("data-film-post");
    if (address) this.post(address, {});
    if (what === "record") this.record();
    else if (what === "choose") this.choose();
    else if (what === "stand_in") this.post(this.root.dataset.address || "", { stand_in: "1" });
    else if (what === "again" && this.unsent) this.sendFilm(this.unsent.film, this.unsent.begins_us);
    else if (what === "lay") this.lay();
  }

  choose() {
    const input = document.createElement("input");
    input.type = "file";
    input.accept = "video/*";
    input.addEventListener("change", () => {
      if (input.files?.[0]) this.sendFilm(input.files[0], 0);
    });
    input.click();
  }

  /** Count in, then play from the playhead while the camera records, to the end or until stopped. */
  async record() {
    const { camera, said } = this.parts;
    if (this.counting.isCounting || this.recorder) {
      this.stop();
      return;
    }
    if (!(await camera.open()) || !camera.stream) return;
    const kind = KINDS.find((one) => MediaRecorder.isTypeSupported(one));
    if (!kind) {
      said(gettext("This browser cannot record a camera. Record elsewhere and import the film here."));
      return;
    }
    this.mark(gettext("Stop"));
    // Show the camera and the Stage.
    this.root.open = false;
    this.counting.start(BEATS, showBeat, () => this.begin(/** @type {MediaStream} */ (camera.stream), kind));
    // The camera may be closed during the count.
    camera.stream.getVideoTracks()[0]?.addEventListener("ended", () => this.stop());
  }

  begin(/** @type {MediaStream | null} */ stream, /** @type {string} */ kind) {
    const { transport } = this.parts;
    if (!stream) {
      this.stop();
      return;
    }
    const recorder = new MediaRecorder(stream, { mimeType: kind, videoBitsPerSecond: 2_500_000 });
    this.recorder = recorder;
    /** @type {Blob[]} */
    const pieces = [];
    let [begunMs, heardMs] = [0, 0];
    const fromUs = Math.round(transport.audio.currentTime * 1e6);
    const heard = () => (heardMs = performance.now());
    transport.audio.addEventListener("playing", heard, { once: true });
    recorder.addEventListener("dataavailable", (event) => pieces.push(event.data));
    recorder.addEventListener("start", () => {
      begunMs = performance.now();
      // A film is recorded at normal speed.
      transport.setSpeed(1);
      transport.start();
    });
    recorder.addEventListener("stop", () => {
      transport.audio.removeEventListener("playing", heard);
      this.recorder = null;
      this.mark(gettext("Record yourself"));
      transport.pause();
      const film = new File(
        pieces,
        gettext("Camera {digit}", { digit: new Date().toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" }) }),
        { type: kind },
      );
      // The recording started before the sound.
      if (film.size && heardMs) this.sendFilm(film, fromUs - Math.round(1000 * (heardMs - begunMs)));
      else this.parts.said(gettext("Nothing was recorded because the sound did not play. Try again."));
    });
    recorder.start(1000);
  }

  stop() {
    this.counting.cancel();
    showBeat(0);
    if (this.recorder?.state === "recording") this.recorder.stop();
    else this.mark(gettext("Record yourself"));
  }

  mark(/** @type {string} */ words) {
    const button = this.root.querySelector('[data-film-do="record"]');
    if (button) button.textContent = words;
  }

  async sendFilm(/** @type {File} */ film, /** @type {number} */ begins_us) {
    this.unsent = { film, begins_us };
    this.root.open = true;
    this.tell(gettext("Sending “{name}” …", { name: film.name }));
    if (await this.post(this.root.dataset.address || "", { film, begins_us: String(begins_us) })) {
      this.unsent = null;
      this.parts.camera.close();
    } else {
      this.tell(LOST, true);
    }
  }

  /**
   * Send a request; the response is the new panel. @param {string} address @param {Record<string, string | Blob>}
   * values
   */
  async post(address, values) {
    const body = new FormData();
    for (const [name, value] of Object.entries(values)) body.append(name, value);
    try {
      const answer = await fetch(address, { method: "POST", body, headers: { "X-CSRFToken": this.parts.token } });
      if (!answer.ok) throw new Error(String(answer.status));
      const written = new DOMParser()
        .parseFromString(await answer.text(), "text/html")
        .querySelector("#reference-panel");
      if (!written) throw new Error("no panel");
      this.panel?.replaceWith(written);
      /** @type {any} */ (window).htmx.process(written);
      this.adopt();
      return true;
    } catch {
      this.tell(gettext("The server could not be reached. Try again."));
      return false;
    }
  }

  /** @param {string} text @param {boolean} [again] with a button to do it again */
  tell(text, again = false) {
    const line = document.createElement("p");
    line.className = again ? "wrong" : "quiet";
    line.setAttribute("role", again ? "alert" : "status");
    line.textContent = text;
    if (again) {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "tool";
      button.dataset.filmDo = "again";
      button.textContent = gettext("Send it again");
      line.append(" ", button);
    }
    this.panel?.querySelector("[data-told]")?.remove();
    line.dataset.told = "";
    this.panel?.prepend(line);
  }

  /** Set the keys of live columns. */
  lay() {
    const { panel } = this;
    if (!(panel instanceof HTMLElement)) return;
    const rows = [...panel.querySelectorAll("tr[data-part]")].filter(
      (row) =>
        row instanceof HTMLElement &&
        !row.hidden &&
        /** @type {HTMLInputElement} */ (row.querySelector('[name="on"]')).checked,
    );
    const columns = rows.map((row) => {
      const number = (/** @type {string} */ name, /** @type {number} */ usual) => {
        const text = /** @type {HTMLInputElement} */ (row.querySelector(`[name="${name}"]`)).value.trim();
        return /^[-−]?\d+$/.test(text) ? Number(text.replace("−", "-")) : usual;
      };
      const drawing = /** @type {HTMLSelectElement | null} */ (row.querySelector('[name="drawing"]'))?.value;
      return {
        part: /** @type {HTMLElement} */ (row).dataset.part || "",
        strength: number("strength", 100),
        later: number("later", 0),
        ...(drawing ? { drawing: Number(drawing) } : {}),
      };
    });
    const open = columns.filter(({ part }) => !this.parts.isLocked(part));
    if (!open.length) {
      this.parts.said(
        columns.length
          ? gettext("All ticked columns are locked. Unlock one first.")
          : gettext("Tick at least one column that follows the face."),
      );
      return;
    }
    const mirrored = /** @type {HTMLInputElement} */ (panel.querySelector('[name="mirrored"]')).checked;
    this.parts.edits.send("follow_film", {
      speaker: String(this.parts.activeCharacter.value.id),
      film: Number(panel.dataset.key),
      columns: open,
      mirrored,
    });
  }
}
