/** The gain of the clip at the playhead: beside the Lens, and by keys. */

/** The limits of a clip's gain (dB), as on the page of the sound. */
const MOST_DB = 24;

export class Volume {
  /**
   * @param {HTMLButtonElement | null} button shows the level; there is none where nothing may be changed
   * @param {{shot: import("./model.js").Shot, edits: import("./edits.js").Edits, transport: import("../lib/transport.js").Transport,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(button, parts, scope) {
    this.button = button;
    this.parts = parts;
    scope.add(parts.transport.frame.follow(() => this.show()));
    scope.add(parts.activeCharacter.follow(() => this.show()));
  }

  get clip() {
    const { shot, transport, activeCharacter } = this.parts;
    return shot.clipOn(transport.frame.value, activeCharacter.value.of || activeCharacter.value.id);
  }

  show() {
    if (!this.button) return;
    const gain = this.clip?.gain;
    const text = gain === undefined ? "– dB" : `${gain > 0 ? "+" : gain < 0 ? "−" : ""}${Math.abs(gain)} dB`;
    if (this.button.textContent !== text) this.button.textContent = text;
  }

  by(/** @type {number} */ db) {
    const { clip } = this;
    if (clip) this.set(Math.max(-MOST_DB, Math.min(MOST_DB, clip.gain + db)));
  }

  set(/** @type {number} */ db) {
    const { clip } = this;
    if (clip && clip.gain !== db) this.parts.edits.send("gain", { clip: clip.id, db });
  }
}
