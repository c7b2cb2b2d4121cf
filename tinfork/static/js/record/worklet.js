/** Runs in the audio thread: sends every block of the first channel to the page. */
class Tap extends AudioWorkletProcessor {
  process(inputs) {
    const [channel] = inputs[0];
    if (channel) this.port.postMessage(channel.slice());
    return true;
  }
}
registerProcessor("tap", Tap);
