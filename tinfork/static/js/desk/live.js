/**
 * Live updates: edits and remarks of others, and who else is here. Changes are announced by a stream of server-sent
 * events; without one, the page polls more often.
 */

/** The polling interval of a visible page: without a stream, and with one, for who is here. */
const LOOK_MS = 1500;
const LOOK_HEARING_MS = 4000;
/** The least time between two requests, so that many changes are fetched together. */
const APART_MS = 300;

export class Live {
  /**
   * @param {HTMLElement} place where others are shown along the shot
   * @param {{url: string, live: string, shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport, edits: import("./edits.js").Edits}} parts
   *   `live`: the address of the stream: a path, or the port of another process; "" if there is none
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(place, parts, scope) {
    this.place = place;
    this.parts = parts;
    /** The hash of the remarks that this page has. */
    this.said = "";
    this.busy = false;
    this.again = false;
    this.asked = -APART_MS;
    /** The newest announced revision that was not requested yet. */
    this.heard = 0;
    this.later = 0;
    /** @type {EventSource | null} */
    this.stream = null;
    const timer = setInterval(() => this.look(), LOOK_MS);
    scope.add(() => clearInterval(timer));
    scope.add(() => clearTimeout(this.later));
    scope.add(() => this.listen(false));
    scope.add(parts.edits.waiting.follow(() => this.catchUp()));
    // A stream takes one of the few connections that a browser has to a site: hidden pages close theirs.
    scope.listen(document, "visibilitychange", () => this.listen(!document.hidden));
    scope.listen(window, "focus", () => this.ask());
    this.listen(!document.hidden);
    // The stream requests changes when it opens.
    if (!this.stream) this.ask();
  }

  get isHearing() {
    return this.stream?.readyState === EventSource.OPEN;
  }

  listen(/** @type {boolean} */ on) {
    const { live } = this.parts;
    this.stream?.close();
    this.stream = null;
    if (!on || !live) return;
    const { protocol, hostname } = window.location;
    this.stream = new EventSource(live.startsWith(":") ? `${protocol}//${hostname}${live}` : live, {
      withCredentials: true,
    });
    this.stream.addEventListener("changed", (event) => this.hear(Number(event.data)));
    // Request changes made while the stream was closed.
    this.stream.addEventListener("open", () => this.ask());
  }

  /** Handle the announcement of a revision; 0 means a new remark. */
  hear(/** @type {number} */ revision) {
    this.heard = Math.max(this.heard, revision || Infinity);
    this.catchUp();
  }

  /** Request announced changes. Those of this page come with the responses to its edits. */
  catchUp() {
    const { edits, shot } = this.parts;
    if (edits.waiting.value || this.heard <= shot.revision) return;
    clearTimeout(this.later);
    const early = this.asked + APART_MS - performance.now();
    if (early > 0) {
      this.later = setTimeout(() => this.catchUp(), early);
      return;
    }
    this.heard = 0;
    this.ask();
  }

  look() {
    if (!this.isHearing || performance.now() - this.asked > LOOK_HEARING_MS - LOOK_MS / 2) this.ask();
  }

  async ask() {
    if (document.hidden) return;
    if (this.busy) {
      this.again = true;
      return;
    }
    this.busy = true;
    this.asked = performance.now();
    await this.fetch();
    this.busy = false;
    if (!this.again) return;
    this.again = false;
    this.ask();
  }

  async fetch() {
    const { url, shot, transport, edits } = this.parts;
    const seen = shot.revision;
    const asked = new URLSearchParams({ since: String(seen), said: this.said, at: String(transport.frame.value) });
    const told = await fetch(`${url}?${asked}`)
      .then((answer) => (answer.ok ? answer.json() : null))
      .catch(() => null);
    if (!told) return;
    this.show(told.here);
    // Do not replace data while it is edited or played; it comes with one of the next responses.
    if (edits.waiting.value || transport.playing.value || shot.revision !== seen) return;
    this.said = told.said;
    if (told.document) edits.take(told.document);
  }

  /** @param {Array<{id: number, name: string, frame: number}>} here */
  show(here) {
    const { shot } = this.parts;
    this.place.replaceChildren(
      ...here.map(({ name, frame }) => {
        const mark = document.createElement("span");
        mark.textContent = name;
        mark.style.left = `${(100 * Math.min(frame, shot.frames)) / Math.max(1, shot.frames)}%`;
        return mark;
      }),
    );
  }
}
