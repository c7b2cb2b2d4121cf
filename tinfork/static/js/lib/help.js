/**
 * The `?` page: a row for each key of a table.
 * @param {HTMLDialogElement} dialog
 * @param {Record<string, {shown: string, what: string}>} table
 */
export function fillKeys(dialog, table) {
  const list = /** @type {HTMLElement} */ (dialog.querySelector("dl"));
  for (const entry of Object.values(table)) {
    const key = document.createElement("dt");
    const what = document.createElement("dd");
    key.textContent = entry.shown;
    what.textContent = entry.what;
    list.append(key, what);
  }
}
