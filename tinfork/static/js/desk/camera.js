/** The camera beside the Stage, as a mirror: one's own mouth while the shot plays. Nothing of it is kept or sent. */
import { Signal } from "../lib/signal.js";

/** What is in the way of the camera, in words. */
export function cameraRefusal(/** @type {unknown} */ error) {
  const name = error instanceof DOMException ? error.name : "";
  if (name === "NotAllowedError") return "The browser does not let this page use the camera. Allow it at the address bar.";
  if (name === "NotFoundError" || name === "OverconstrainedError") return "There is no camera here. Plug one in, and try again.";
  if (name === "NotReadableError") return "Another program uses the camera. Close it there, then try again.";
  if (!navigator.mediaDevices) return "Browsers open a camera only over HTTPS or on the machine itself.";
  return "The camera could not be opened.";
}

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

  async toggle() {
    if (this.isOn.value) {
      this.close();
      return;
    }
    this.parts.said("");
    this.isOn.value = true;
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ video: { width: { ideal: 640 }, facingMode: "user" }, audio: false });
      // It was closed while the browser asked.
      if (!this.isOn.value) {
        stream.getTracks().forEach((track) => track.stop());
        return;
      }
      this.stream = stream;
      stream.getVideoTracks()[0]?.addEventListener("ended", () => {
        this.close();
        this.parts.said("The camera went away. Plug it in, and open it again.");
      });
      this.video.srcObject = stream;
      this.root.hidden = false;
      await this.video.play();
    } catch (error) {
      if (!this.isOn.value) return;
      this.close();
      this.parts.said(cameraRefusal(error));
    }
    this.parts.changed();
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
