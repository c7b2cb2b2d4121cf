/**
 * Tapping mouths during playback: a pressed Tray key shows its drawing, which is set on the frames while it was down.
 */

export class Tapping {
  /**
   * @param {{shot: import("./model.js").Shot, transport: import("../lib/transport.js").Transport,
   *   edits: import("./edits.js").Edits, activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>,
   *   redraw: () => void}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(parts, scope) {
    this.parts = parts;
    /** @type {Map<string, {start_us: number, drawing: import("./model.js").Drawing}>} keys that are down */
    this.down = new Map();
    /** @type {Array<{start_us: number, end_us: number, drawing: number, set: string}>} */
    this.taps = [];
    /** The character whose mouths are tapped, from the first key to the last. */
    this.who = parts.activeCharacter.value;
    scope.listen(document, "keyup", (/** @type {KeyboardEvent} */ event) => this.up(event.key.toLowerCase()));
    scope.add(parts.transport.playing.follow((on) => !on && this.finish()));
  }

  get clock() {
    return Math.round(this.parts.transport.audio.currentTime * 1e6);
  }

  /** A key was pressed: true if it is a mouth and the sound plays. */
  press(/** @type {string} */ key) {
    const { transport, edits, activeCharacter } = this.parts;
    const drawing = transport.playing.value && edits.may ? edits.byKey(key) : undefined;
    if (!drawing) return false;
    if (this.down.has(key)) return true;
    if (!this.taps.length && !this.down.size) this.who = activeCharacter.value;
    // One mouth at a time: a new key ends the one before.
    for (const held of [...this.down.keys()]) this.up(held);
    this.down.set(key, { start_us: this.clock, drawing });
    return true;
  }

  up(/** @type {string} */ key) {
    const held = this.down.get(key);
    if (!held) return;
    this.down.delete(key);
    this.taps.push({
      start_us: held.start_us,
      end_us: Math.max(this.clock, held.start_us + 1),
      drawing: held.drawing.number,
      set: held.drawing.set,
    });
  }

  /** The sound stopped or looped: send the tapped mouths. */
  finish() {
    for (const held of [...this.down.keys()]) this.up(held);
    if (!this.taps.length) return;
    const { edits, transport } = this.parts;
    edits.send("tap_mouths", { speaker: String(this.who.id), taps: this.taps, speed: transport.speed.value });
    this.taps = [];
  }
}
