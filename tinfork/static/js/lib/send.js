/** Sending a form with files, with progress: `fetch` reports none. */

/**
 * @param {HTMLFormElement} form
 * @param {{progress: (percent: number) => void, done: (next: string) => void,
 *   refused: (answer: any) => void, failed: (text: string) => void}} told
 */
export function sendForm(form, told) {
  const request = new XMLHttpRequest();
  request.open("POST", form.action);
  request.setRequestHeader("Accept", "application/json");
  request.responseType = "json";
  request.upload.addEventListener("progress", (event) => {
    if (event.lengthComputable) told.progress(Math.round((100 * event.loaded) / event.total));
  });
  request.addEventListener("load", () => {
    if (request.status === 200 && request.response) told.done(request.response.next);
    else if (request.status === 422 && request.response) told.refused(request.response);
    // The server says why in words, where it can.
    else if (request.response?.error) told.failed(request.response.error);
    else if (request.status === 413) told.failed("The file is too large for this site.");
    else if (request.status === 403) told.failed("Your part in this studio does not allow that.");
    else told.failed("That did not work. What you typed is still here; try again.");
  });
  request.addEventListener("error", () => told.failed("The connection was lost. Nothing was sent; try again."));
  request.send(new FormData(form));
}
