/** Sending a form with files, with progress, which `fetch` does not report. */
import { gettext } from "./gettext.js";

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
    // Show the server's own message, if there is one.
    else if (request.response?.error) told.failed(request.response.error);
    else if (request.status === 413) told.failed(gettext("The file is too large for this site."));
    else if (request.status === 403) told.failed(gettext("Your role in this studio does not allow that."));
    else told.failed(gettext("That failed. Your text is still here; try again."));
  });
  const data = new FormData(form);
  request.addEventListener("error", async () => {
    const gone = await changedFile(data);
    if (gone)
      told.failed(
        gettext("“{gone}” was changed, moved or renamed while it was being sent. Nothing was sent; choose it again.", {
          gone,
        }),
      );
    else told.failed(gettext("Connection lost. Nothing was sent; try again."));
  });
  request.send(data);
}

/** The name of a file that changed since it was chosen and cannot be read any more; "" if there is none. */
async function changedFile(/** @type {FormData} */ data) {
  for (const value of data.values()) {
    if (!(value instanceof File) || !value.name) continue;
    try {
      await (value.size ? value.slice(0, 1) : value).arrayBuffer();
    } catch {
      return value.name;
    }
  }
  return "";
}
