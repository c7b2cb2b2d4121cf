/** Errors of microphones and cameras. */
import { gettext } from "./gettext.js";

/**
 * The message why a device cannot be opened.
 * @param {unknown} error what the browser said
 * @param {string} device "camera", "microphone"
 * @param {string} instead what else one can do, after "or"; nothing where there is nothing else
 */
export function refusal(error, device, instead = "") {
  const name = error instanceof DOMException ? error.name : "";
  const or = instead && gettext(", or {instead}", { instead });
  if (name === "NotAllowedError")
    return gettext("The browser blocked the {device}. Allow it in the address bar{or}.", { device, or });
  if (name === "NotFoundError" || name === "OverconstrainedError")
    return gettext("No {device} found. Plug one in{or}.", { device, or });
  if (name === "NotReadableError")
    return gettext("Another program uses this {device}. Close it there, then try again.", { device });
  if (!navigator.mediaDevices)
    return gettext("Browsers allow a {device} only over HTTPS. Open the site with https://{or}.", { device, or });
  return gettext("The {device} could not be opened. Try another one{or}.", { device, or });
}
