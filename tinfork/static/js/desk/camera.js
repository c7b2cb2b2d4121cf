/** The camera beside the Stage, as a mirror: one's own mouth while the shot plays. It stores and sends nothing. */
import { refusal } from "../lib/devices.js";
import { gettext } from "../lib/gettext.js";
import { Signal } from "../lib/signal.js";

export class CameraMirror {
  /**
   * @param {HTMLElement} root
   * @param {{said: (text: string) => void, changed: () => void}} parts `changed`: there is another room for the picture
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(root, parts, scope) {
    this.root = root;
    this.parts = parts;
    this.video = /** @type {HTMLVideoElement} */ (root.querySelector("video"));
    this.isOn = new Signal(false);
    /** @type {MediaStream | null} */
    this.stream = null;
    scope.listen(this.video, "loadedmetadata", () => parts.changed());
    scope.add(() => this.close());
  }

  toggle() {
    if (this.isOn.value) this.close();
    else this.open();
  }

  /** Open the camera if needed; returns whether it is open. */
  async open() {
    if (this.stream) return true;
    this.parts.said("");
    this.isOn.value = true;
    try {
      const stream = await navigator.mediaDevices.getUserMedia({
        video: { width: { ideal: 640 }, facingMode: "user" },
        audio: false,
      });
      // It was closed while the browser asked.
      if (!this.isOn.value) {
        stream.getTracks().forEach((track) => track.stop());
        return false;
      }
      this.stream = stream;
      stream.getVideoTracks()[0]?.addEventListener("ended", () => {
        this.close();
        this.parts.said(gettext("The camera was unplugged. Plug it in and turn it on again."));
      });
      this.video.srcObject = stream;
      this.root.hidden = false;
      await this.video.play();
    } catch (error) {
      if (!this.isOn.value) return false;
      this.close();
      this.parts.said(refusal(error, gettext("camera")));
      return false;
    }
    this.parts.changed();
    return true;
  }

  close() {
    this.stream?.getTracks().forEach((track) => track.stop());
    this.stream = null;
    this.video.srcObject = null;
    this.root.hidden = true;
    this.isOn.value = false;
    this.parts.changed();
  }
}
