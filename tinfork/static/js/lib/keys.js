/** Key names, and listening for the keys of a table. */

/**
 * @typedef {{keys: string[], shown: string, what: string, run: () => void, group?: string}} Key
 */

const IS_MAC = typeof navigator !== "undefined" && /^(Mac|iP)/.test(navigator.platform);
/** @type {Record<string, string>} how keys are written on a keyboard */
const SIGNS = {
  " ": "Space",
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  Backspace: "⌫",
  Delete: "Del",
  Insert: "Ins",
  PageUp: "Page up",
  PageDown: "Page down",
  ctrl: "Ctrl",
  alt: "Alt",
  shift: "⇧",
};

/** The modifiers' names on this machine. */
export function onThisKeyboard(/** @type {string} */ shown, isMac = IS_MAC) {
  return isMac
    ? shown
        .replace(/\bCtrl\b/g, "⌘")
        .replace(/\bAlt\b/g, "⌥")
        .replace(/\bEnter\b/g, "↩")
    : shown;
}

/** The displayed name of a key. */
export function shownOf(/** @type {string} */ name, isMac = IS_MAC) {
  const parts = name === "+" ? ["+"] : name.split(/\+(?=.)/);
  const shown = parts.map((part) => SIGNS[part] || (part.length === 1 ? part.toUpperCase() : part)).join(" ");
  return onThisKeyboard(shown, isMac);
}

/**
 * Add groups to a table: each begins with the named command, in the table's order.
 * @param {Record<string, Key>} table
 * @param {Array<[string, string]>} groups first command, title
 */
export function grouped(table, groups) {
  const titles = new Map(groups);
  let group = "";
  for (const [name, entry] of Object.entries(table)) {
    group = titles.get(name) || group;
    Object.assign(entry, { group, shown: onThisKeyboard(entry.shown) });
  }
  return table;
}

/** The names of a key press in the table: with Shift, then without. */
export function namesOf(
  /** @type {{key: string, ctrlKey: boolean, metaKey: boolean, altKey: boolean, shiftKey: boolean}} */ event,
) {
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
  // Keys may be reassigned at any time.
  const commandOf = (/** @type {string} */ name) => Object.values(table).find((entry) => entry.keys.includes(name));
  scope.listen(document, "keydown", (/** @type {KeyboardEvent} */ event) => {
    const target = /** @type {Element} */ (event.target);
    if (target.closest("textarea, select, dialog[open]")) return;
    // Text fields get all keys; sliders and tick boxes leave those with Ctrl.
    const field = target.closest("input");
    const isTyped = field && !["range", "checkbox", "radio"].includes(field.type);
    const isFunctionKey = /^F\d+$/.test(event.key);
    if (
      (isTyped && !isFunctionKey) ||
      (field && !isTyped && !isFunctionKey && !((event.ctrlKey || event.metaKey) && event.key.length === 1))
    )
      return;
    // Space and Enter belong to the focused control.
    if ((event.key === " " || event.key === "Enter") && target.closest("button, a, summary")) return;
    const names = namesOf(event);
    const entry = names.map(commandOf).find(Boolean);
    const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey && !event.shiftKey;
    if (entry) {
      event.preventDefault();
      entry.run();
    } else if (isPlain && other(names[0])) {
      event.preventDefault();
    }
  });
}
