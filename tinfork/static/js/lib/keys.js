/** Keys: what a press is called, and listening for those of a table. */

/**
 * @typedef {{keys: string[], shown: string, what: string, run: () => void}} Key
 */

/** What a key press is called in the table; with Shift first, then, where that is nothing, without. */
export function namesOf(/** @type {{key: string, ctrlKey: boolean, metaKey: boolean, altKey: boolean, shiftKey: boolean}} */ event) {
  const held = `${event.ctrlKey || event.metaKey ? "ctrl+" : ""}${event.altKey ? "alt+" : ""}`;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  return event.shiftKey ? [`${held}shift+${key}`, held + key] : [held + key];
}

/**
 * Listen for the table's keys; silent while text is typed or a dialog is open.
 * @param {Record<string, Key>} table
 * @param {(key: string) => boolean} other what is tried with a key that is not in the table: true when it was used
 * @param {import("./scope.js").Scope} scope
 */
export function listenForKeys(table, other, scope) {
  /** @type {Map<string, Key>} */
  const byKey = new Map();
  for (const entry of Object.values(table)) for (const key of entry.keys) byKey.set(key, entry);
  scope.listen(document, "keydown", (/** @type {KeyboardEvent} */ event) => {
    const target = /** @type {Element} */ (event.target);
    if (target.closest("textarea, select, dialog[open]")) return;
    // In a field all keys are typed; a dial or a box to tick leaves those with Ctrl.
    const field = target.closest("input");
    const isTyped = field && !["range", "checkbox", "radio"].includes(field.type);
    const isFunctionKey = /^F\d+$/.test(event.key);
    if ((isTyped && !isFunctionKey) || (field && !isTyped && !isFunctionKey && !((event.ctrlKey || event.metaKey) && event.key.length === 1))) return;
    // Space and Enter belong to the control that has the focus.
    if ((event.key === " " || event.key === "Enter") && target.closest("button, a, summary")) return;
    const names = namesOf(event);
    const entry = names.map((name) => byKey.get(name)).find(Boolean);
    const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey && !event.shiftKey;
    if (entry) {
      event.preventDefault();
      entry.run();
    } else if (isPlain && other(names[0])) {
      event.preventDefault();
    }
  });
}
