/**
 * Single frames of the sound, and clicks: what the sound element cannot play to the sample. The whole sound is decoded
 * once, at 16 kHz, when it is first asked for.
 */

/** What the sound is decoded to (Hz), and the longest that is (seconds): 20 minutes are 77 MB. */
const HZ = 16_000;
const LONGEST_S = 1200;
/** Edges of a scrubbed frame are faded so that they do not crack. */
const FADE_S = 0.003;

export class Hearing {
  /**
   * @param {import("./model.js").Shot} shot
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(shot, scope) {
    this.shot = shot;
    /** @type {AudioContext | null} */
    this.context = null;
    /** @type {Promise<AudioBuffer | null> | null} */
    this.asked = null;
    /** @type {AudioBuffer | null} */
    this.buffer = null;
    /** When the frame that is sounding ends, by the context's clock. */
    this.until = 0;
    /** How many frames have sounded. */
    this.count = 0;
    scope.add(() => this.context?.close());
  }

  open() {
    this.context ||= new AudioContext({ latencyHint: "interactive" });
    if (this.context.state === "suspended") this.context.resume();
    return this.context;
  }

  /** @returns {Promise<AudioBuffer | null>} */
  load() {
    this.asked ||= this.decode().catch(() => null);
    return this.asked;
  }

  async decode() {
    const { url } = this.shot.sound;
    if (!url || this.shot.durationUs > LONGEST_S * 1e6) return null;
    const answer = await fetch(url);
    if (!answer.ok) return null;
    const buffer = await new OfflineAudioContext(1, 1, HZ).decodeAudioData(await answer.arrayBuffer());
    // It may be another sound by now.
    if (url === this.shot.sound.url) this.buffer = buffer;
    return buffer;
  }

  /** Another sound: what was decoded is not it. */
  renew() {
    this.asked = this.buffer = null;
  }

  /** Sound the frame; while one still sounds, the next begins where it ends. */
  frame(/** @type {number} */ frame) {
    const context = this.open();
    if (!this.buffer) {
      this.load();
      return;
    }
    const { rate } = this.shot;
    const from = rate.firstUs(frame) / 1e6;
    const length = Math.min(this.buffer.duration, rate.firstUs(frame + 1) / 1e6) - from;
    if (length <= 0) return;
    // No further ahead than a frame: what is dragged fast skips frames rather than trail behind.
    const at = Math.max(context.currentTime, Math.min(this.until, context.currentTime + length));
    const source = new AudioBufferSourceNode(context, { buffer: this.buffer });
    const gain = new GainNode(context, { gain: 0 });
    gain.gain.setValueAtTime(0, at);
    gain.gain.linearRampToValueAtTime(1, at + FADE_S);
    gain.gain.setValueAtTime(1, at + length - FADE_S);
    gain.gain.linearRampToValueAtTime(0, at + length);
    source.connect(gain).connect(context.destination);
    source.start(at, from, length);
    this.until = at + length;
    this.count += 1;
  }

  /** A short click, now. */
  click() {
    const context = this.open();
    const at = context.currentTime;
    const tone = new OscillatorNode(context, { type: "triangle", frequency: 1500 });
    const gain = new GainNode(context, { gain: 0.22 });
    gain.gain.setTargetAtTime(0, at + 0.002, 0.006);
    tone.connect(gain).connect(context.destination);
    tone.start(at);
    tone.stop(at + 0.05);
  }
}
