/** Microphones and cameras that do not open. */

/**
 * What is in the way of a device, in words.
 * @param {unknown} error what the browser said
 * @param {string} device "camera", "microphone"
 * @param {string} instead what else one can do, after "or"; nothing where there is nothing else
 */
export function refusal(error, device, instead = "") {
  const name = error instanceof DOMException ? error.name : "";
  const or = instead && `, or ${instead}`;
  if (name === "NotAllowedError") return `The browser blocked the ${device}. Allow it in the address bar${or}.`;
  if (name === "NotFoundError" || name === "OverconstrainedError") return `No ${device} found. Plug one in${or}.`;
  if (name === "NotReadableError") return `Another program uses this ${device}. Close it there, then try again.`;
  if (!navigator.mediaDevices) return `Browsers allow a ${device} only over HTTPS. Open the site with https://${or}.`;
  return `The ${device} could not be opened. Try another one${or}.`;
}
