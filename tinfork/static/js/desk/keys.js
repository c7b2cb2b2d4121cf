/** The one table of keys: it runs them, and fills tooltips and the `?` page. */

/**
 * @typedef {{keys: string[], shown: string, what: string, run: () => void}} Key
 */

/**
 * @param {{transport: import("./transport.js").Transport, lens: import("./lens.js").Lens,
 *   shot: import("./model.js").Shot, pins: import("./pins.js").Pins | null, looks: import("./looks.js").Looks, help: () => void}} parts
 * @returns {Record<string, Key>}
 */
export function keyTable({ transport, lens, shot, pins, looks, help }) {
  const second = Math.round(shot.rate.nominal);
  return {
    play: { keys: [" "], shown: "Space", what: "Play and pause", run: () => transport.toggle() },
    playOn: { keys: ["l"], shown: "L", what: "Play", run: () => transport.play() },
    pause: { keys: ["k"], shown: "K", what: "Pause", run: () => transport.pause() },
    back: { keys: ["j"], shown: "J", what: "Back a second", run: () => transport.seek(transport.frame.value - second) },
    previous: { keys: ["ArrowLeft", "ArrowUp"], shown: "← ↑", what: "One frame back", run: () => transport.step(-1) },
    next: { keys: ["ArrowRight", "ArrowDown"], shown: "→ ↓", what: "One frame on", run: () => transport.step(1) },
    pageBack: { keys: ["PageUp"], shown: "Page up", what: "One second back", run: () => transport.step(-second) },
    pageOn: { keys: ["PageDown"], shown: "Page down", what: "One second on", run: () => transport.step(second) },
    first: { keys: ["Home"], shown: "Home", what: "First frame", run: () => transport.step(-shot.frames) },
    last: { keys: ["End"], shown: "End", what: "Last frame", run: () => transport.step(shot.frames) },
    loop: { keys: ["o"], shown: "O", what: "Loop on and off", run: () => (transport.loop.value = !transport.loop.value) },
    speed: {
      keys: ["i"],
      shown: "I",
      what: "Speed: 100, 50, 25 %",
      run: () => transport.nextSpeed(),
    },
    closer: { keys: ["+", "="], shown: "+", what: "Lens closer", run: () => lens.zoom(1 / 1.5) },
    wider: { keys: ["-"], shown: "−", what: "Lens wider", run: () => lens.zoom(1.5) },
    nextLook: { keys: ["n"], shown: "N", what: "Next second look", run: () => looks.walk(1) },
    previousLook: { keys: ["p"], shown: "P", what: "Previous second look", run: () => looks.walk(-1) },
    settle: { keys: ["/"], shown: "/", what: "Settle the second look, and go to the next", run: () => looks.settle() },
    pin: { keys: ["Enter"], shown: "Enter", what: "Pin the mouth as it is", run: () => pins?.do("pin") },
    unpin: { keys: ["Backspace", "Delete"], shown: "⌫", what: "Let a pinned mouth go", run: () => pins?.do("unpin") },
    noMouth: { keys: ["."], shown: ".", what: "No mouth on this hold", run: () => pins?.do("none") },
    undo: { keys: ["ctrl+z"], shown: "Ctrl Z", what: "Undo", run: () => pins?.do("undo") },
    redo: { keys: ["ctrl+shift+z", "ctrl+y"], shown: "Ctrl ⇧ Z", what: "Redo", run: () => pins?.do("redo") },
    help: { keys: ["?"], shown: "?", what: "These keys", run: help },
  };
}

/**
 * Listen for the table's keys; silent while text is typed or a dialog is open.
 * @param {Record<string, Key>} table
 * @param {(key: string) => boolean} other what is tried with a key that is not in the table: true when it was used
 * @param {import("../lib/scope.js").Scope} scope
 */
export function listenForKeys(table, other, scope) {
  const byKey = new Map();
  for (const entry of Object.values(table)) for (const key of entry.keys) byKey.set(key, entry);
  scope.listen(document, "keydown", (/** @type {KeyboardEvent} */ event) => {
    const target = /** @type {Element} */ (event.target);
    if (event.altKey || target.closest("input, textarea, select, dialog[open]")) return;
    // Space and Enter belong to the control that has the focus.
    if ((event.key === " " || event.key === "Enter") && target.closest("button, a")) return;
    const held = event.ctrlKey || event.metaKey ? `ctrl+${event.shiftKey ? "shift+" : ""}` : "";
    const key = held + (event.key.length === 1 ? event.key.toLowerCase() : event.key);
    const entry = byKey.get(key);
    if (entry) {
      event.preventDefault();
      entry.run();
    } else if (!held && other(key)) {
      event.preventDefault();
    }
  });
}
