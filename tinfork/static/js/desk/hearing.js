/**
 * Playing single frames of the sound, and clicks, which need sample accuracy. The whole sound is decoded once, at 16
 * kHz, on first use.
 */

/** The sample rate of the decoded sound (Hz), and the longest sound that is decoded (seconds): 20 minutes are 77 MB. */
const HZ = 16_000;
const LONGEST_S = 1200;
/** The fade at the edges of a scrubbed frame, to avoid clicks. */
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
    /** The end of the frame being played, in the context's time. */
    this.until = 0;
    /** The number of frames played. */
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
    // The sound may have changed meanwhile.
    if (url === this.shot.sound.url) this.buffer = buffer;
    return buffer;
  }

  /** Set another sound, and discard the decoded one. */
  renew() {
    this.asked = this.buffer = null;
  }

  /** Play a frame; if one is still playing, start at its end. */
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
    // Queue at most one frame: fast scrubbing skips frames instead of lagging.
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

  /** Play a short click. */
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
