/** The one table of keys: it runs them, and fills tooltips and the `?` page. */

/**
 * @typedef {{keys: string[], shown: string, what: string, run: () => void}} Key
 */

/**
 * @param {{transport: import("./transport.js").Transport, lens: import("./lens.js").Lens,
 *   shot: import("./model.js").Shot, help: () => void}} parts
 * @returns {Record<string, Key>}
 */
export function keyTable({ transport, lens, shot, help }) {
  const second = Math.round(shot.rate.nominal);
  const look = (/** @type {number} */ direction) => {
    const now = shot.rate.firstUs(transport.frame.value);
    const frames = shot.secondLooks.map((word) => shot.rate.frameAt(word.start));
    const found = direction > 0 ? frames.find((f) => f > shot.rate.frameAt(now)) : frames.findLast((f) => f < shot.rate.frameAt(now));
    if (found !== undefined) {
      transport.pause();
      transport.seek(found);
    }
  };
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
    nextLook: { keys: ["n"], shown: "N", what: "Next second look", run: () => look(1) },
    previousLook: { keys: ["p"], shown: "P", what: "Previous second look", run: () => look(-1) },
    help: { keys: ["?"], shown: "?", what: "These keys", run: help },
  };
}

/**
 * Listen for the table's keys; silent while text is typed or a dialog is open.
 * @param {Record<string, Key>} table
 * @param {import("../lib/scope.js").Scope} scope
 */
export function listenForKeys(table, scope) {
  const byKey = new Map();
  for (const entry of Object.values(table)) for (const key of entry.keys) byKey.set(key, entry);
  scope.listen(document, "keydown", (/** @type {KeyboardEvent} */ event) => {
    const target = /** @type {Element} */ (event.target);
    if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input, textarea, select, dialog[open]")) return;
    // Space and Enter belong to the control that has the focus.
    if (event.key === " " && target.closest("button, a")) return;
    const entry = byKey.get(event.key.length === 1 ? event.key.toLowerCase() : event.key);
    if (!entry) return;
    event.preventDefault();
    entry.run();
  });
}
