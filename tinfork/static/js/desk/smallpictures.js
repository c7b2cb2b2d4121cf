/** Small drawings come in one response for each character; others have their own URL. */

/**
 * Set the image sources of all drawings: `picture` at full size, `thumb` in small. If the response fails, drawings are
 * loaded one by one.
 * @param {import("./model.js").DeskDocument} told
 */
export async function placePictures(told) {
  const answers = await Promise.all(told.smallPictures.map(fetched));
  /** @type {Record<string, string>} */
  const found = Object.assign({}, ...answers);
  for (const drawing of told.characters.flatMap((character) => character.drawings)) {
    drawing.picture = found[drawing.url] || drawing.url;
    drawing.thumb = found[drawing.thumb] || drawing.thumb;
  }
}

/** @param {string} address @returns {Promise<Record<string, string>>} */
function fetched(address) {
  return fetch(address)
    .then((answer) => (answer.ok ? answer.json() : {}))
    .catch(() => ({}));
}
