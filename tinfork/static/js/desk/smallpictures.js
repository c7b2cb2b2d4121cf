/** Small drawings come in one answer for each character, and are seen from there; others have an address of their own. */

/**
 * Give every drawing what an image of it has as its source: `picture` at full size, `thumb` in small. An answer that does
 * not come is no loss: the drawings are then fetched one by one.
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
