/** What others do in this shot meanwhile: their edits and remarks arrive, and one sees who is here and where. */

/** How often it is asked, while somebody looks at the page. */
const LOOK_MS = 1500;

export class Live {
  /**
   * @param {HTMLElement} place where others are shown along the shot
   * @param {{url: string, shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport, edits: import("./edits.js").Edits}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(place, parts, scope) {
    this.place = place;
    this.parts = parts;
    /** What was said of the shot as this page knows it. */
    this.said = "";
    this.busy = false;
    const ask = () => this.ask();
    const timer = setInterval(ask, LOOK_MS);
    scope.add(() => clearInterval(timer));
    scope.listen(window, "focus", ask);
    ask();
  }

  async ask() {
    const { url, shot, transport, edits } = this.parts;
    if (document.hidden || this.busy) return;
    this.busy = true;
    const seen = shot.revision;
    const asked = new URLSearchParams({ since: String(seen), said: this.said, at: String(transport.frame.value) });
    const told = await fetch(`${url}?${asked}`).then((answer) => (answer.ok ? answer.json() : null)).catch(() => null);
    this.busy = false;
    if (!told) return;
    this.show(told.here);
    // What is being edited or played is not exchanged below it; it comes with one of the next answers.
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
