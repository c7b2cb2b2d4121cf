/** After a word was corrected, offer to correct it in the other places of the production. */
import { gettext } from "../lib/gettext.js";

/** Ignore punctuation around a word. */
const bare = (/** @type {string} */ text) => text.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, "");

export class Alike {
  /**
   * @param {HTMLElement} root where it is asked; `data-url` says where to
   * @param {{token: string, edits: import("./edits.js").Edits, said: (text: string) => void, changes: string}} parts
   */
  constructor(root, parts) {
    this.root = root;
    this.parts = parts;
    root.addEventListener("click", (event) => {
      const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-alike]");
      if (!(pressed instanceof HTMLElement)) return;
      if (pressed.dataset.alike === "yes") this.correct();
      else this.close();
    });
    this.was = this.now = "";
  }

  close() {
    this.root.hidden = true;
  }

  /** After an edit: ask the server for other places of the word. */
  async offer(/** @type {string} */ was, /** @type {string} */ now, /** @type {Promise<unknown>} */ sent) {
    [this.was, this.now] = [bare(was), bare(now)];
    this.close();
    if (!this.was || !this.now) return;
    await sent;
    const asked = new URLSearchParams({ was: this.was, now: this.now });
    const told = await fetch(`${this.root.dataset.url}?${asked}`)
      .then((answer) => (answer.ok ? answer.json() : null))
      .catch(() => null);
    if (!told?.places) return;
    const places =
      told.places === 1 ? gettext("in one more place") : gettext("in {places} more places", { places: told.places });
    const shots = told.shots === 1 ? "" : `, in ${told.shots} shots`;
    /** @type {HTMLElement} */ (this.root.querySelector("span")).textContent = gettext(
      "“{was}” is written {places}{shots}.",
      { was: this.was, places, shots },
    );
    this.root.hidden = false;
  }

  async correct() {
    this.close();
    const { token, edits, said, changes } = this.parts;
    const answer = await fetch(this.root.dataset.url || "", {
      method: "POST",
      headers: {
        "X-CSRFToken": token,
        "Content-Type": "application/x-www-form-urlencoded",
        Accept: "application/json",
      },
      body: new URLSearchParams({ was: this.was, now: this.now }),
    }).catch(() => null);
    const told = await answer?.json().catch(() => null);
    said(told?.said || told?.error || gettext("That failed. Nothing was changed; try again."));
    await edits.look(changes);
  }
}
