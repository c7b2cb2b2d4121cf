/** Translation of texts in scripts. The page has a catalogue unless its language is English. */

/** @type {{gettext?: (text: string) => string, ngettext?: (one: string, many: string, count: number) => string}} */
const catalogue = /** @type {any} */ (globalThis).django || {};

/**
 * A text with its values for names in braces.
 * @param {string} text
 * @param {Record<string, string | number>} [values]
 */
export function gettext(text, values = {}) {
  return filled(catalogue.gettext ? catalogue.gettext(text) : text, values);
}

/**
 * A text for one or for many.
 * @param {string} one
 * @param {string} many
 * @param {number} count
 * @param {Record<string, string | number>} [values]
 */
export function ngettext(one, many, count, values = {}) {
  const text = catalogue.ngettext ? catalogue.ngettext(one, many, count) : count === 1 ? one : many;
  return filled(text, { count, ...values });
}

/** @param {string} text @param {Record<string, string | number>} values */
function filled(text, values) {
  return text.replace(/\{(\w+)\}/g, (whole, name) => (name in values ? String(values[name]) : whole));
}
