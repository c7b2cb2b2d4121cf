/** The table of keys: it runs commands, and fills tooltips and the `?` page. */
import { gettext } from "../lib/gettext.js";
import { grouped } from "../lib/keys.js";

/** @typedef {import("../lib/keys.js").Key} Key */

/**
 * The keys of the Desk. Letters of the left hand's block, and figures, are the Tray's.
 * @param {{transport: import("../lib/transport.js").Transport, lens: import("./lens.js").Lens,
 *   shot: import("./model.js").Shot, edits: import("./edits.js").Edits, looks: import("./looks.js").Looks,
 *   selection: import("./selection.js").Selection, words: import("./wordwork.js").WordWork,
 *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>, around: () => void, playSelected: () => void,
 *   volume: import("./volume.js").Volume, note: () => void, remark: () => void, versions: () => void, clicks: () => void, spectrogram: () => void, list: () => void, view: () => void,
 *   dials: () => void, closeUp: () => void, camera: () => void, arrange: () => void, move: () => void, moving: import("./moving.js").Moving | null, help: () => void}} parts
 * @returns {Record<string, Key>}
 */
export function keyTable(parts) {
  const { transport, lens, shot, edits, looks, selection, words, activeCharacter, volume, moving } = parts;
  /** While a part is being moved, the keys for mouths act on its keys of motion. */
  const either =
    (/** @type {(moving: import("./moving.js").Moving) => void} */ motion, /** @type {() => void} */ mouths) => () =>
      moving?.isOn.value ? motion(moving) : mouths();
  const second = Math.round(shot.rate.nominal);
  const now = () => transport.frame.value;
  const cast = (/** @type {number} */ by) => {
    const { characters } = shot;
    activeCharacter.value =
      characters[(characters.indexOf(activeCharacter.value) + by + characters.length) % characters.length];
  };
  const around = (/** @type {"hold" | "word" | "line" | "turn" | "second"} */ what) => {
    const { start, end } = shot.framesAround(what, now(), activeCharacter.value.id) || edits.hold;
    selection.begin(start, shot.characters.indexOf(activeCharacter.value));
    selection.set(start, end);
  };
  /** @type {Record<string, Key>} */
  const table = {
    play: { keys: [" "], shown: "Space", what: gettext("Play and pause"), run: () => transport.toggle() },
    playOn: { keys: ["l"], shown: "L", what: gettext("Play"), run: () => transport.play() },
    pause: { keys: ["k"], shown: "K", what: gettext("Pause"), run: () => transport.pause() },
    back: { keys: ["j"], shown: "J", what: gettext("Back a second"), run: () => transport.seek(now() - second) },
    playSelected: {
      keys: ["shift+ "],
      shown: "⇧ Space",
      what: gettext("Play the selection, or the hold"),
      run: parts.playSelected,
    },
    around: { keys: ["'"], shown: "'", what: gettext("Play around the playhead"), run: parts.around },
    loop: {
      keys: ["o"],
      shown: "O",
      what: gettext("Turn loop on or off"),
      run: () => (transport.loop.value = !transport.loop.value),
    },
    speed: { keys: ["i"], shown: "I", what: gettext("Speed: 100, 50, 25 %"), run: () => transport.nextSpeed() },
    clicks: { keys: [";"], shown: ";", what: gettext("Click where each hold starts"), run: parts.clicks },
    louder: {
      keys: ["ctrl+ArrowUp"],
      shown: "Ctrl ↑",
      what: gettext("Clip at the playhead 1 dB louder"),
      run: () => volume.by(1),
    },
    quieter: {
      keys: ["ctrl+ArrowDown"],
      shown: "Ctrl ↓",
      what: gettext("Clip 1 dB quieter"),
      run: () => volume.by(-1),
    },
    asRecorded: {
      keys: ["ctrl+0"],
      shown: "Ctrl 0",
      what: gettext("Clip at its original loudness"),
      run: () => volume.set(0),
    },
    previous: {
      keys: ["ArrowLeft", "ArrowUp"],
      shown: "← ↑",
      what: gettext("Previous frame, with sound"),
      run: () => transport.step(-1),
    },
    next: {
      keys: ["ArrowRight", "ArrowDown"],
      shown: "→ ↓",
      what: gettext("Next frame, with sound"),
      run: () => transport.step(1),
    },
    pageBack: {
      keys: ["PageUp"],
      shown: "Page up",
      what: gettext("One second back"),
      run: () => transport.step(-second),
    },
    pageOn: {
      keys: ["PageDown"],
      shown: "Page down",
      what: gettext("One second forward"),
      run: () => transport.step(second),
    },
    first: { keys: ["Home"], shown: "Home", what: gettext("First frame"), run: () => transport.seek(0) },
    last: { keys: ["End"], shown: "End", what: gettext("Last frame"), run: () => transport.seek(shot.frames - 1) },
    otherBefore: { keys: ["shift+ArrowLeft"], shown: "⇧ ←", what: gettext("Previous character"), run: () => cast(-1) },
    otherNext: { keys: ["shift+ArrowRight"], shown: "⇧ →", what: gettext("Next character"), run: () => cast(1) },
    selectUp: {
      keys: ["shift+ArrowUp"],
      shown: "⇧ ↑",
      what: gettext("Extend the selection up"),
      run: () => selection.grow(now(), -1),
    },
    selectDown: {
      keys: ["shift+ArrowDown"],
      shown: "⇧ ↓",
      what: gettext("Extend the selection down"),
      run: () => selection.grow(now(), 1),
    },
    selectBefore: {
      keys: ["shift+Home"],
      shown: "⇧ Home",
      what: gettext("Select everything before the playhead"),
      run: () => selection.reach("before", now()),
    },
    selectAfter: {
      keys: ["shift+End"],
      shown: "⇧ End",
      what: gettext("Select everything after the playhead"),
      run: () => selection.reach("after", now()),
    },
    selectHold: {
      keys: ["\\"],
      shown: "\\",
      what: gettext("Select the hold at the playhead"),
      run: () => around("hold"),
    },
    selectWord: {
      keys: ["|"],
      shown: "⇧ \\",
      what: gettext("Select the word at the playhead"),
      run: () => around("word"),
    },
    selectLine: {
      keys: ["ctrl+\\"],
      shown: "Ctrl \\",
      what: gettext("Select the line at the playhead"),
      run: () => around("line"),
    },
    selectTurn: {
      keys: ["ctrl+|"],
      shown: "Ctrl ⇧ \\",
      what: gettext("Select the turn at the playhead"),
      run: () => around("turn"),
    },
    selectSecond: {
      keys: ["ctrl+;"],
      shown: "Ctrl ;",
      what: gettext("Select the second at the playhead"),
      run: () => around("second"),
    },
    selectAll: {
      keys: ["ctrl+a"],
      shown: "Ctrl A",
      what: gettext("Select the whole column"),
      run: () => selection.reach("all", now()),
    },
    deselect: { keys: ["Escape"], shown: "Esc", what: gettext("Clear the selection"), run: () => selection.clear() },
    pin: {
      keys: ["Enter"],
      shown: "Enter",
      what: gettext("Pin these drawings; set a key"),
      run: either(
        (one) => one.setAsIs(),
        () => edits.pinAsIs(),
      ),
    },
    exact: {
      keys: ["shift+Enter"],
      shown: "⇧ Enter",
      what: gettext("Pin these frames, with the drawing left free"),
      run: () => edits.exact(),
    },
    nextDrawing: { keys: [">"], shown: "⇧ .", what: gettext("Next drawing in the Tray"), run: () => edits.turnOver(1) },
    previousDrawing: {
      keys: ["<"],
      shown: "⇧ ,",
      what: gettext("Previous drawing in the Tray"),
      run: () => edits.turnOver(-1),
    },
    noMouth: { keys: ["."], shown: ".", what: gettext("Hide the mouth"), run: () => edits.noMouth() },
    unpin: {
      keys: ["Backspace"],
      shown: "⌫",
      what: gettext("Back to automatic; remove keys"),
      run: either(
        (one) => one.remove(),
        () => edits.letGo(),
      ),
    },
    toBefore: {
      keys: ["Delete"],
      shown: "Del",
      what: gettext("Join the frames to the previous hold"),
      run: () => edits.giveToBefore(),
    },
    longer: { keys: ["]"], shown: "]", what: gettext("Hold ends one frame later"), run: () => edits.stretch(false, 1) },
    shorter: {
      keys: ["["],
      shown: "[",
      what: gettext("Hold ends one frame earlier"),
      run: () => edits.stretch(false, -1),
    },
    startsLater: {
      keys: ["}"],
      shown: "⇧ ]",
      what: gettext("Hold starts one frame later"),
      run: () => edits.stretch(true, 1),
    },
    startsEarlier: {
      keys: ["{"],
      shown: "⇧ [",
      what: gettext("Hold starts one frame earlier"),
      run: () => edits.stretch(true, -1),
    },
    split: { keys: [","], shown: ",", what: gettext("Split the hold at the playhead"), run: () => edits.split() },
    earlier: {
      keys: ["alt+ArrowUp"],
      shown: "Alt ↑",
      what: gettext("Mouths or keys one frame earlier"),
      run: either(
        (one) => one.nudge(-1),
        () => edits.nudge(-1),
      ),
    },
    later: {
      keys: ["alt+ArrowDown"],
      shown: "Alt ↓",
      what: gettext("Mouths or keys one frame later"),
      run: either(
        (one) => one.nudge(1),
        () => edits.nudge(1),
      ),
    },
    insert: {
      keys: ["Insert", "alt+Enter"],
      shown: "Ins",
      what: gettext("Insert frames: pins from here on move later"),
      run: () => edits.insert(),
    },
    remove: {
      keys: ["ctrl+Backspace", "ctrl+Delete"],
      shown: "Ctrl ⌫",
      what: gettext("Remove frames: pins after them move earlier"),
      run: () => edits.remove(),
    },
    copy: {
      keys: ["ctrl+c"],
      shown: "Ctrl C",
      what: gettext("Copy mouths or keys"),
      run: either(
        (one) => one.copy(),
        () => edits.copy(),
      ),
    },
    cut: { keys: ["ctrl+x"], shown: "Ctrl X", what: gettext("Cut mouths"), run: () => edits.cut() },
    paste: {
      keys: ["ctrl+v"],
      shown: "Ctrl V",
      what: gettext("Paste mouths or keys (to another character by sound)"),
      run: either(
        (one) => one.paste(),
        () => edits.paste(),
      ),
    },
    undo: { keys: ["ctrl+z"], shown: "Ctrl Z", what: gettext("Undo"), run: () => edits.undo() },
    redo: { keys: ["ctrl+shift+z", "ctrl+y"], shown: "Ctrl ⇧ Z", what: gettext("Redo"), run: () => edits.redo() },
    note: { keys: ["ctrl+Enter"], shown: "Ctrl Enter", what: gettext("Write a note on the frame"), run: parts.note },
    remark: {
      keys: ["ctrl+shift+Enter"],
      shown: "Ctrl ⇧ Enter",
      what: gettext("Make a remark on these frames; draw on the picture"),
      run: parts.remark,
    },
    retype: { keys: ["F2"], shown: "F2", what: gettext("Edit the word at the playhead"), run: () => words.type() },
    chooseSound: {
      keys: ["F4"],
      shown: "F4",
      what: gettext("Change the sound at the playhead"),
      run: () => words.choose(),
    },
    addWord: {
      keys: ["shift+F2"],
      shown: "⇧ F2",
      what: gettext("Add a word on the selected frames"),
      run: () => words.add(),
    },
    slideBack: {
      keys: ["ctrl+ArrowLeft"],
      shown: "Ctrl ←",
      what: gettext("Word 10 ms earlier"),
      run: () => words.slide(-1, false),
    },
    slideOn: {
      keys: ["ctrl+ArrowRight"],
      shown: "Ctrl →",
      what: gettext("Word 10 ms later"),
      run: () => words.slide(1, false),
    },
    lineBack: {
      keys: ["ctrl+shift+ArrowLeft"],
      shown: "Ctrl ⇧ ←",
      what: gettext("Whole line 10 ms earlier"),
      run: () => words.slide(-1, true),
    },
    lineOn: {
      keys: ["ctrl+shift+ArrowRight"],
      shown: "Ctrl ⇧ →",
      what: gettext("Whole line 10 ms later"),
      run: () => words.slide(1, true),
    },
    wordStartBack: {
      keys: ["alt+ArrowLeft"],
      shown: "Alt ←",
      what: gettext("Word starts 10 ms earlier"),
      run: () => words.edge("start", -1),
    },
    wordStartOn: {
      keys: ["alt+ArrowRight"],
      shown: "Alt →",
      what: gettext("Word starts 10 ms later"),
      run: () => words.edge("start", 1),
    },
    wordEndBack: {
      keys: ["alt+shift+ArrowLeft"],
      shown: "Alt ⇧ ←",
      what: gettext("Word ends 10 ms earlier"),
      run: () => words.edge("end", -1),
    },
    wordEndOn: {
      keys: ["alt+shift+ArrowRight"],
      shown: "Alt ⇧ →",
      what: gettext("Word ends 10 ms later"),
      run: () => words.edge("end", 1),
    },
    soundBack: {
      keys: ["ctrl+alt+ArrowLeft"],
      shown: "Ctrl Alt ←",
      what: gettext("Sound starts 10 ms earlier"),
      run: () => words.soundEdge("start", -1),
    },
    soundOn: {
      keys: ["ctrl+alt+ArrowRight"],
      shown: "Ctrl Alt →",
      what: gettext("Sound starts 10 ms later"),
      run: () => words.soundEdge("start", 1),
    },
    closer: { keys: ["+", "="], shown: "+", what: gettext("Zoom in"), run: () => lens.zoom(1 / 1.5) },
    wider: { keys: ["-"], shown: "−", what: gettext("Zoom out"), run: () => lens.zoom(1.5) },
    spectrogram: {
      keys: ["ctrl+i"],
      shown: "Ctrl I",
      what: gettext("Show or hide the spectrogram"),
      run: parts.spectrogram,
    },
    nextLook: { keys: ["n"], shown: "N", what: gettext("Next second look"), run: () => looks.walk(1) },
    previousLook: { keys: ["p"], shown: "P", what: gettext("Previous second look"), run: () => looks.walk(-1) },
    settle: {
      keys: ["/"],
      shown: "/",
      what: gettext("Mark the second look as fine, go to the next"),
      run: () => looks.settle(),
    },
    firstCorrection: {
      keys: ["alt+1"],
      shown: "Alt 1",
      what: gettext("Use the first suggestion for the second look"),
      run: () => looks.correct(0),
    },
    secondCorrection: {
      keys: ["alt+2"],
      shown: "Alt 2",
      what: gettext("Use the second suggestion"),
      run: () => looks.correct(1),
    },
    thirdCorrection: {
      keys: ["alt+3"],
      shown: "Alt 3",
      what: gettext("Use the third suggestion"),
      run: () => looks.correct(2),
    },
    fourthCorrection: {
      keys: ["alt+4"],
      shown: "Alt 4",
      what: gettext("Use the fourth suggestion"),
      run: () => looks.correct(3),
    },
    versions: {
      keys: ["ctrl+s"],
      shown: "Ctrl S",
      what: gettext("Versions: save, compare, restore"),
      run: parts.versions,
    },
    list: { keys: ["ctrl+l"], shown: "Ctrl L", what: gettext("List of holds"), run: parts.list },
    view: { keys: ["ctrl+,"], shown: "Ctrl ,", what: gettext("Choose the Sheet's columns and rows"), run: parts.view },
    dials: { keys: ["ctrl+."], shown: "Ctrl .", what: gettext("Show settings / show mouths"), run: parts.dials },
    closeUp: {
      keys: ["F9"],
      shown: "F9",
      what: gettext("Whole picture, or close-up of one character"),
      run: parts.closeUp,
    },
    camera: {
      keys: ["F6"],
      shown: "F6",
      what: gettext("Show your camera beside the Stage (not recorded)"),
      run: parts.camera,
    },
    move: { keys: ["F7"], shown: "F7", what: gettext("Move a head, face, mouth or other part"), run: parts.move },
    keyBefore: {
      keys: ["shift+PageUp"],
      shown: "⇧ Page up",
      what: gettext("Previous motion key"),
      run: () => moving?.walk(-1),
    },
    keyAfter: {
      keys: ["shift+PageDown"],
      shown: "⇧ Page down",
      what: gettext("Next motion key"),
      run: () => moving?.walk(1),
    },
    arrange: { keys: ["F8"], shown: "F8", what: gettext("Arrange characters and background"), run: parts.arrange },
    help: { keys: ["?"], shown: "?", what: gettext("Find a command; keys"), run: parts.help },
  };
  return grouped(table, [
    ["play", gettext("Play and hear")],
    ["previous", gettext("Go to")],
    ["otherBefore", gettext("Select")],
    ["pin", gettext("Mouths")],
    ["undo", gettext("Undo and notes")],
    ["retype", gettext("Words and sounds")],
    ["closer", gettext("Lens")],
    ["nextLook", gettext("Second looks")],
    ["versions", gettext("Views and tools")],
  ]);
}
