/** A microphone, or a substitute: a source of blocks of samples. */
import { gettext } from "../lib/gettext.js";

export const STAND_IN = "stand-in";

/** The available microphones; browsers reveal their names only after permission. */
export async function microphones() {
  if (!navigator.mediaDevices?.enumerateDevices) return [];
  const devices = await navigator.mediaDevices.enumerateDevices();
  return devices
    .filter((device) => device.kind === "audioinput" && device.deviceId)
    .map((device, at) => ({
      id: device.deviceId,
      name: device.label || gettext("Microphone {value}", { value: at + 1 }),
    }));
}

export class Microphone {
  /** @param {{worklet: string, sample: string}} files */
  constructor(files) {
    this.files = files;
    this.onBlock = (/** @type {Float32Array} */ _samples) => {};
    /** The microphone was disconnected. */
    this.onLost = () => {};
  }

  get rateHz() {
    return this.context?.sampleRate || 48_000;
  }

  /** Open the microphone with an id, or the substitute; the one before is closed. */
  async open(/** @type {string} */ id) {
    this.close();
    this.context = new AudioContext({ sampleRate: 48_000 });
    await this.context.audioWorklet.addModule(this.files.worklet);
    const source = id === STAND_IN ? await this.standIn() : await this.device(id);
    this.tap = new AudioWorkletNode(this.context, "tap");
    this.tap.port.onmessage = (event) => this.onBlock(event.data);
    source.connect(this.tap);
    // Unconnected nodes are not run; a silent output keeps it running without feedback.
    const silence = this.context.createGain();
    silence.gain.value = 0;
    this.tap.connect(silence).connect(this.context.destination);
    await this.context.resume();
  }

  async device(/** @type {string} */ id) {
    const audio = {
      deviceId: id ? { exact: id } : undefined,
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
      channelCount: 1,
    };
    this.stream = await navigator.mediaDevices.getUserMedia({ audio });
    for (const track of this.stream.getAudioTracks()) track.addEventListener("ended", () => this.onLost());
    return /** @type {AudioContext} */ (this.context).createMediaStreamSource(this.stream);
  }

  async standIn() {
    const context = /** @type {AudioContext} */ (this.context);
    const answer = await fetch(this.files.sample);
    const sound = context.createBufferSource();
    sound.buffer = await context.decodeAudioData(await answer.arrayBuffer());
    sound.loop = true;
    sound.start();
    return sound;
  }

  close() {
    this.stream?.getTracks().forEach((track) => track.stop());
    this.tap?.port.close();
    this.tap?.disconnect();
    this.context?.close();
    this.stream = this.tap = this.context = undefined;
  }
}
