/** Count-in: beats of half a second with a soft click before something starts. */

const BEAT_MS = 500;
/** The number of beats. */
export const BEATS = 4;

/** Show the number over the Stage; nothing at 0. @param {number} beat */
export function showBeat(beat) {
  const number = /** @type {HTMLElement} */ (document.querySelector("#stage .count-in"));
  number.textContent = beat ? String(beat) : "";
  number.hidden = !beat;
}

export class CountIn {
  /** @param {() => AudioContext | null | undefined} context where the clicks sound; none: they do not */
  constructor(context) {
    this.context = context;
    this.timer = 0;
  }

  get isCounting() {
    return this.timer !== 0;
  }

  /**
   * @param {number} beats @param {(beat: number) => void} said told each beat, down to 1, and 0 at the end @param {()
   * => void} then
   */
  start(beats, said, then) {
    said(beats);
    if (beats <= 0) {
      this.timer = 0;
      then();
      return;
    }
    this.click(beats === 1);
    this.timer = window.setTimeout(() => this.start(beats - 1, said, then), BEAT_MS);
  }

  cancel() {
    clearTimeout(this.timer);
    this.timer = 0;
  }

  click(/** @type {boolean} */ isLast) {
    const context = this.context();
    if (!context) return;
    const tone = context.createOscillator();
    const gain = context.createGain();
    tone.frequency.value = isLast ? 1320 : 880;
    gain.gain.setValueAtTime(0.12, context.currentTime);
    gain.gain.exponentialRampToValueAtTime(0.0001, context.currentTime + 0.08);
    tone.connect(gain).connect(context.destination);
    tone.start();
    tone.stop(context.currentTime + 0.1);
  }
}
