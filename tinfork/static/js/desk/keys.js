/** The one table of keys: it runs them, and fills tooltips and the `?` page. */

/** @typedef {import("../lib/keys.js").Key} Key */

/**
 * The keys of the Desk. Letters of the left hand's block, and figures, are the Tray's.
 * @param {{transport: import("../lib/transport.js").Transport, lens: import("./lens.js").Lens,
 *   shot: import("./model.js").Shot, edits: import("./edits.js").Edits, looks: import("./looks.js").Looks,
 *   selection: import("./selection.js").Selection, words: import("./wordwork.js").WordWork,
 *   hand: import("../lib/signal.js").Signal<import("./model.js").Character>, around: () => void, playSelected: () => void,
 *   volume: import("./volume.js").Volume, note: () => void, versions: () => void, clicks: () => void, spectrogram: () => void, list: () => void, view: () => void,
 *   dials: () => void, closeUp: () => void, camera: () => void, arrange: () => void, move: () => void, moving: import("./moving.js").Moving | null, help: () => void}} parts
 * @returns {Record<string, Key>}
 */
export function keyTable(parts) {
  const { transport, lens, shot, edits, looks, selection, words, hand, volume, moving } = parts;
  /** While a part is moved, keys of mouths are keys of its motion. */
  const either = (/** @type {(moving: import("./moving.js").Moving) => void} */ motion, /** @type {() => void} */ mouths) => () => (moving?.isOn.value ? motion(moving) : mouths());
  const second = Math.round(shot.rate.nominal);
  const now = () => transport.frame.value;
  const cast = (/** @type {number} */ by) => {
    const { characters } = shot;
    hand.value = characters[(characters.indexOf(hand.value) + by + characters.length) % characters.length];
  };
  const around = (/** @type {"hold" | "word"} */ what) => {
    const word = shot.wordOn(now(), hand.value.id);
    const { start, end } = what === "hold" || !word ? edits.hold : { start: shot.rate.frameAt(word.start), end: shot.rate.frameAt(word.end - 1) + 1 };
    selection.begin(start, shot.characters.indexOf(hand.value));
    selection.set(start, end);
  };
  return {
    play: { keys: [" "], shown: "Space", what: "Play and pause", run: () => transport.toggle() },
    playOn: { keys: ["l"], shown: "L", what: "Play", run: () => transport.play() },
    pause: { keys: ["k"], shown: "K", what: "Pause", run: () => transport.pause() },
    back: { keys: ["j"], shown: "J", what: "Back a second", run: () => transport.seek(now() - second) },
    playSelected: { keys: ["shift+ "], shown: "⇧ Space", what: "Play what is selected, or the hold", run: parts.playSelected },
    around: { keys: ["'"], shown: "'", what: "Play what is around the playhead", run: parts.around },
    loop: { keys: ["o"], shown: "O", what: "Loop on and off", run: () => (transport.loop.value = !transport.loop.value) },
    speed: { keys: ["i"], shown: "I", what: "Speed: 100, 50, 25 %", run: () => transport.nextSpeed() },
    clicks: { keys: [";"], shown: ";", what: "A click where each hold begins", run: parts.clicks },
    louder: { keys: ["ctrl+ArrowUp"], shown: "Ctrl ↑", what: "The clip at the playhead 1 dB louder", run: () => volume.by(1) },
    quieter: { keys: ["ctrl+ArrowDown"], shown: "Ctrl ↓", what: "The clip 1 dB quieter", run: () => volume.by(-1) },
    asRecorded: { keys: ["ctrl+0"], shown: "Ctrl 0", what: "The clip as loud as it came", run: () => volume.set(0) },
    previous: { keys: ["ArrowLeft", "ArrowUp"], shown: "← ↑", what: "One frame back; it sounds", run: () => transport.step(-1) },
    next: { keys: ["ArrowRight", "ArrowDown"], shown: "→ ↓", what: "One frame on; it sounds", run: () => transport.step(1) },
    pageBack: { keys: ["PageUp"], shown: "Page up", what: "One second back", run: () => transport.step(-second) },
    pageOn: { keys: ["PageDown"], shown: "Page down", what: "One second on", run: () => transport.step(second) },
    first: { keys: ["Home"], shown: "Home", what: "First frame", run: () => transport.seek(0) },
    last: { keys: ["End"], shown: "End", what: "Last frame", run: () => transport.seek(shot.frames - 1) },
    otherBefore: { keys: ["shift+ArrowLeft"], shown: "⇧ ←", what: "The character before in hand", run: () => cast(-1) },
    otherNext: { keys: ["shift+ArrowRight"], shown: "⇧ →", what: "The next character in hand", run: () => cast(1) },
    selectUp: { keys: ["shift+ArrowUp"], shown: "⇧ ↑", what: "Select a frame more upwards", run: () => selection.grow(now(), -1) },
    selectDown: { keys: ["shift+ArrowDown"], shown: "⇧ ↓", what: "Select a frame more downwards", run: () => selection.grow(now(), 1) },
    selectBefore: { keys: ["shift+Home"], shown: "⇧ Home", what: "Select what is before the playhead", run: () => selection.reach("before", now()) },
    selectAfter: { keys: ["shift+End"], shown: "⇧ End", what: "Select what is after it", run: () => selection.reach("after", now()) },
    selectHold: { keys: ["\\"], shown: "\\", what: "Select the hold around it", run: () => around("hold") },
    selectWord: { keys: ["|"], shown: "⇧ \\", what: "Select the word around it", run: () => around("word") },
    selectAll: { keys: ["ctrl+a"], shown: "Ctrl A", what: "Select the whole column", run: () => selection.reach("all", now()) },
    deselect: { keys: ["Escape"], shown: "Esc", what: "Select nothing", run: () => selection.clear() },
    pin: { keys: ["Enter"], shown: "Enter", what: "Pin the mouths as they are; set a key", run: either((one) => one.setAsIs(), () => edits.pinAsIs()) },
    exact: { keys: ["shift+Enter"], shown: "⇧ Enter", what: "Pin the frames, whichever mouth is best on them", run: () => edits.exact() },
    nextDrawing: { keys: [">"], shown: "⇧ .", what: "The next drawing here, in the order of the Tray", run: () => edits.turnOver(1) },
    previousDrawing: { keys: ["<"], shown: "⇧ ,", what: "The drawing before it", run: () => edits.turnOver(-1) },
    noMouth: { keys: ["."], shown: ".", what: "No mouth here", run: () => edits.noMouth() },
    unpin: { keys: ["Backspace"], shown: "⌫", what: "Let go: the solver has these frames again; take keys away", run: either((one) => one.remove(), () => edits.letGo()) },
    toBefore: { keys: ["Delete"], shown: "Del", what: "Give the frames to the hold before", run: () => edits.giveToBefore() },
    longer: { keys: ["]"], shown: "]", what: "The hold ends a frame later", run: () => edits.stretch(false, 1) },
    shorter: { keys: ["["], shown: "[", what: "The hold ends a frame earlier", run: () => edits.stretch(false, -1) },
    startsLater: { keys: ["}"], shown: "⇧ ]", what: "The hold begins a frame later", run: () => edits.stretch(true, 1) },
    startsEarlier: { keys: ["{"], shown: "⇧ [", what: "The hold begins a frame earlier", run: () => edits.stretch(true, -1) },
    split: { keys: [","], shown: ",", what: "Split the hold at the playhead", run: () => edits.split() },
    earlier: { keys: ["alt+ArrowUp"], shown: "Alt ↑", what: "Mouths, or keys, a frame earlier", run: either((one) => one.nudge(-1), () => edits.nudge(-1)) },
    later: { keys: ["alt+ArrowDown"], shown: "Alt ↓", what: "Mouths, or keys, a frame later", run: either((one) => one.nudge(1), () => edits.nudge(1)) },
    insert: { keys: ["Insert", "alt+Enter"], shown: "Ins", what: "Put frames in: what is pinned from here on comes later", run: () => edits.insert() },
    remove: { keys: ["ctrl+Backspace", "ctrl+Delete"], shown: "Ctrl ⌫", what: "Take the frames out: what is pinned behind them comes earlier", run: () => edits.remove() },
    copy: { keys: ["ctrl+c"], shown: "Ctrl C", what: "Copy mouths, or keys", run: either((one) => one.copy(), () => edits.copy()) },
    cut: { keys: ["ctrl+x"], shown: "Ctrl X", what: "Copy mouths and let go", run: () => edits.cut() },
    paste: { keys: ["ctrl+v"], shown: "Ctrl V", what: "Paste mouths; for another character by their sounds; or keys", run: either((one) => one.paste(), () => edits.paste()) },
    undo: { keys: ["ctrl+z"], shown: "Ctrl Z", what: "Undo", run: () => edits.undo() },
    redo: { keys: ["ctrl+shift+z", "ctrl+y"], shown: "Ctrl ⇧ Z", what: "Redo", run: () => edits.redo() },
    note: { keys: ["ctrl+Enter"], shown: "Ctrl Enter", what: "A note beside the frame", run: parts.note },
    retype: { keys: ["F2"], shown: "F2", what: "Type the word at the playhead anew", run: () => words.type() },
    chooseSound: { keys: ["F4"], shown: "F4", what: "Choose the sound at the playhead", run: () => words.choose() },
    addWord: { keys: ["shift+F2"], shown: "⇧ F2", what: "A word on the frames that are selected", run: () => words.add() },
    slideBack: { keys: ["ctrl+ArrowLeft"], shown: "Ctrl ←", what: "The word 10 ms earlier", run: () => words.slide(-1, false) },
    slideOn: { keys: ["ctrl+ArrowRight"], shown: "Ctrl →", what: "The word 10 ms later", run: () => words.slide(1, false) },
    lineBack: { keys: ["ctrl+shift+ArrowLeft"], shown: "Ctrl ⇧ ←", what: "Its whole line 10 ms earlier", run: () => words.slide(-1, true) },
    lineOn: { keys: ["ctrl+shift+ArrowRight"], shown: "Ctrl ⇧ →", what: "Its whole line 10 ms later", run: () => words.slide(1, true) },
    wordStartBack: { keys: ["alt+ArrowLeft"], shown: "Alt ←", what: "The word begins 10 ms earlier", run: () => words.edge("start", -1) },
    wordStartOn: { keys: ["alt+ArrowRight"], shown: "Alt →", what: "The word begins 10 ms later", run: () => words.edge("start", 1) },
    wordEndBack: { keys: ["alt+shift+ArrowLeft"], shown: "Alt ⇧ ←", what: "The word ends 10 ms earlier", run: () => words.edge("end", -1) },
    wordEndOn: { keys: ["alt+shift+ArrowRight"], shown: "Alt ⇧ →", what: "The word ends 10 ms later", run: () => words.edge("end", 1) },
    soundBack: { keys: ["ctrl+alt+ArrowLeft"], shown: "Ctrl Alt ←", what: "The sound begins 10 ms earlier", run: () => words.soundEdge("start", -1) },
    soundOn: { keys: ["ctrl+alt+ArrowRight"], shown: "Ctrl Alt →", what: "The sound begins 10 ms later", run: () => words.soundEdge("start", 1) },
    closer: { keys: ["+", "="], shown: "+", what: "Lens closer", run: () => lens.zoom(1 / 1.5) },
    wider: { keys: ["-"], shown: "−", what: "Lens wider", run: () => lens.zoom(1.5) },
    spectrogram: { keys: ["ctrl+i"], shown: "Ctrl I", what: "Spectrogram on and off", run: parts.spectrogram },
    nextLook: { keys: ["n"], shown: "N", what: "Next second look", run: () => looks.walk(1) },
    previousLook: { keys: ["p"], shown: "P", what: "Previous second look", run: () => looks.walk(-1) },
    settle: { keys: ["/"], shown: "/", what: "Settle the second look, and go to the next", run: () => looks.settle() },
    firstAnswer: { keys: ["alt+1"], shown: "Alt 1", what: "The word in doubt is the first that is offered", run: () => looks.answer(0) },
    secondAnswer: { keys: ["alt+2"], shown: "Alt 2", what: "It is the second", run: () => looks.answer(1) },
    thirdAnswer: { keys: ["alt+3"], shown: "Alt 3", what: "It is the third", run: () => looks.answer(2) },
    versions: { keys: ["ctrl+s"], shown: "Ctrl S", what: "Versions: keep, compare, return", run: parts.versions },
    list: { keys: ["ctrl+l"], shown: "Ctrl L", what: "The holds as a list", run: parts.list },
    view: { keys: ["ctrl+,"], shown: "Ctrl ,", what: "Columns and rows of the Sheet", run: parts.view },
    dials: { keys: ["ctrl+."], shown: "Ctrl .", what: "Dials, sets and reading again; back to the mouths", run: parts.dials },
    closeUp: { keys: ["F9"], shown: "F9", what: "The whole picture, or the character in hand close up", run: parts.closeUp },
    camera: { keys: ["F6"], shown: "F6", what: "See yourself beside the Stage, as in a mirror; nothing is kept", run: parts.camera },
    move: { keys: ["F7"], shown: "F7", what: "Move a head, a face, a mouth or another part", run: parts.move },
    keyBefore: { keys: ["shift+PageUp"], shown: "⇧ Page up", what: "The key of motion before", run: () => moving?.walk(-1) },
    keyAfter: { keys: ["shift+PageDown"], shown: "⇧ Page down", what: "The next key of motion", run: () => moving?.walk(1) },
    arrange: { keys: ["F8"], shown: "F8", what: "Arrange characters and background", run: parts.arrange },
    help: { keys: ["?"], shown: "?", what: "These keys", run: parts.help },
  };
}
