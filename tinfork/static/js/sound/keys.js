/** The table of keys on the page of a shot's sound: runs commands, and fills tooltips and the `?` page. */
import { gettext } from "../lib/gettext.js";
import { grouped } from "../lib/keys.js";

/**
 * @param {{transport: import("../lib/transport.js").Transport, lanes: import("./lanes.js").Lanes,
 *   shot: import("./model.js").SoundShot, send: SendEdit,
 *   focusGap: () => void, help: () => void}} parts
 * @returns {Record<string, import("../lib/keys.js").Key>}
 */
export function keyTable({ transport, lanes, shot, send, focusGap, help }) {
  const second = () => Math.round(shot.rate.nominal);
  const now = () => transport.frame.value;
  const clip = () => (lanes.selection?.kind === "clip" ? shot.clip(lanes.selection.id) : undefined);
  const turn = () =>
    lanes.selection?.kind === "turn" ? { clip: lanes.selection.clip, turn: lanes.selection.turn } : undefined;
  const split = () => {
    const held = turn();
    if (held) send("turn_split", { ...held, at_us: shot.rate.firstUs(now()) });
    else {
      const under =
        clip() ||
        shot.clips.find(
          (each) => each.start < shot.rate.firstUs(now()) && shot.rate.firstUs(now()) < each.start + each.length,
        );
      if (under) send("split", { clip: under.id, frame: now() });
    }
  };
  const remove = () => {
    const [held, one] = [turn(), clip()];
    if (held) send("turn_remove", held);
    if (one) send("remove", { clip: one.id });
  };
  const close = () => {
    const one = clip();
    if (one) send("remove", { clip: one.id, closes: true });
  };
  const duplicate = () => {
    const one = clip();
    if (one) send("duplicate", { clip: one.id, frame: now() });
  };
  const join = () => {
    const held = turn();
    if (held) send("turn_merge", held);
  };
  const zoom = (/** @type {number} */ factor) => {
    lanes.view.zoom(factor, lanes.view.x(shot.rate.firstUs(now())));
    lanes.redraw();
  };
  /** @type {Record<string, import("../lib/keys.js").Key>} */
  const table = {
    play: { keys: [" "], shown: "Space", what: gettext("Play and pause"), run: () => transport.toggle() },
    playOn: { keys: ["l"], shown: "L", what: gettext("Play"), run: () => transport.play() },
    pause: { keys: ["k"], shown: "K", what: gettext("Pause"), run: () => transport.pause() },
    back: { keys: ["j"], shown: "J", what: gettext("Back a second"), run: () => transport.seek(now() - second()) },
    previous: { keys: ["ArrowLeft"], shown: "←", what: gettext("Previous frame"), run: () => transport.step(-1) },
    next: { keys: ["ArrowRight"], shown: "→", what: gettext("Next frame"), run: () => transport.step(1) },
    pageBack: {
      keys: ["PageUp"],
      shown: "Page up",
      what: gettext("One second back"),
      run: () => transport.step(-second()),
    },
    pageOn: {
      keys: ["PageDown"],
      shown: "Page down",
      what: gettext("One second forward"),
      run: () => transport.step(second()),
    },
    first: { keys: ["Home"], shown: "Home", what: gettext("First frame"), run: () => transport.step(-shot.frames) },
    last: { keys: ["End"], shown: "End", what: gettext("Last frame"), run: () => transport.step(shot.frames) },
    split: { keys: ["s"], shown: "S", what: gettext("Split the clip or turn at the playhead"), run: split },
    duplicate: { keys: ["d"], shown: "D", what: gettext("Duplicate the clip at the playhead"), run: duplicate },
    join: { keys: ["m"], shown: "M", what: gettext("Join the turn with the character's next turn"), run: join },
    remove: {
      keys: ["Delete", "Backspace"],
      shown: "Delete",
      what: gettext("Remove the selected clip or turn"),
      run: remove,
    },
    close: {
      keys: ["shift+Delete", "shift+Backspace"],
      shown: "⇧ Delete",
      what: gettext("Remove the clip and close the gap"),
      run: close,
    },
    gap: { keys: ["g"], shown: "G", what: gettext("Insert empty frames at the playhead"), run: focusGap },
    closer: { keys: ["+", "="], shown: "+", what: gettext("Zoom in"), run: () => zoom(1 / 1.5) },
    wider: { keys: ["-"], shown: "−", what: gettext("Zoom out"), run: () => zoom(1.5) },
    whole: { keys: ["0"], shown: "0", what: gettext("The whole shot"), run: () => zoom(1e6) },
    undo: { keys: ["u"], shown: "U, Ctrl Z", what: gettext("Undo"), run: () => send("undo") },
    redo: { keys: ["r"], shown: "R, Ctrl Y", what: gettext("Redo"), run: () => send("redo") },
    speed: { keys: ["i"], shown: "I", what: gettext("Speed: 100, 50, 25 %"), run: () => transport.nextSpeed() },
    help: { keys: ["?"], shown: "?", what: gettext("Find a command; keys"), run: help },
  };
  return grouped(table, [
    ["play", gettext("Play and hear")],
    ["previous", gettext("Go to")],
    ["split", gettext("Clips and turns")],
    ["closer", gettext("View")],
  ]);
}
