/** Sets up the page of a shot's sound: its only module that looks up elements of the page. */
import { wireBar } from "../lib/bar.js";
import { readTheme } from "../lib/canvas.js";
import { CommandList } from "../lib/commands.js";
import { gettext } from "../lib/gettext.js";
import { listenForKeys } from "../lib/keys.js";
import { ReelView } from "../lib/reel.js";
import { showRefused } from "../lib/refused.js";
import { Scope } from "../lib/scope.js";
import { Sync } from "../lib/sync.js";
import { Transport } from "../lib/transport.js";
import { Gestures } from "./gestures.js";
import { Heads } from "./heads.js";
import { Inspector } from "./inspector.js";
import { keyTable } from "./keys.js";
import { Lanes } from "./lanes.js";
import { SoundShot } from "./model.js";
import { Tapping } from "./tapping.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

function start() {
  const scope = new Scope();
  const shot = new SoundShot(JSON.parse(find("#sound-document").textContent));
  const theme = readTheme();
  const transport = new Transport(shot, find("#sound"), scope);
  const lanes = new Lanes(find("#lanes canvas"), { shot, transport }, scope, theme);
  const said = (/** @type {string} */ text) => (find("#said").textContent = text);
  const sync = new Sync(find("#lanes").dataset.edit, find("[name=csrfmiddlewaretoken]").value, {
    revision: () => shot.revision,
    changed: (document) => changed(document),
    said,
  });
  const canChange = find("#lanes").dataset.canChange === "true";
  /** @type {SendEdit} */
  const send = (...edit) => {
    const [name, parameters = {}] = edit;
    if (!canChange) said(gettext("Your role in this studio does not allow changes."));
    else sync.send(name, parameters, shot.about(parameters));
  };
  if (canChange) showRefused(find("#refused"), sync, scope);
  const select = (/** @type {import("./model.js").Selection} */ selection) => {
    lanes.selection = selection;
    inspector.show(selection);
    lanes.redraw();
  };
  const inspector = new Inspector(find("#side"), shot, transport, { send, select }, scope);
  const heads = new Heads(find("#heads"), shot, send);
  lanes.onLanes = (all) => heads.show(all);
  lanes.fit();
  new Gestures(lanes, { send, select, what: () => inspector.what() }, scope);
  if (shot.reel) new ReelView(find("#reel"), shot.reel, shot, transport, scope);

  function changed(/** @type {import("./model.js").SoundDocument} */ document) {
    const url = shot.sound.url;
    shot.take(document);
    if (shot.sound.url !== url) transport.renew(shot.sound.url);
    if (!shot.selected(lanes.selection)) lanes.selection = null;
    lanes.renew();
    inspector.show(lanes.selection);
    showUndo(shot);
  }

  const dialog = find("#keys");
  const focusGap = () => {
    select(null);
    find('[data-field="gap"]').focus();
  };
  const table = keyTable({ transport, lanes, shot, send, focusGap, help: () => commands.open() });
  const commands = new CommandList(/** @type {HTMLDialogElement} */ (dialog), table, "sound", scope);
  wireTapping(shot, transport, lanes, send, scope);
  listenForKeys(table, () => false, scope);
  scope.listen(document, "keydown", (/** @type {KeyboardEvent} */ event) => {
    if (!(event.ctrlKey || event.metaKey) || /** @type {Element} */ (event.target).closest("input, textarea, select"))
      return;
    const key = event.key.toLowerCase();
    if (key !== "z" && key !== "y") return;
    event.preventDefault();
    send(key === "y" || event.shiftKey ? "redo" : "undo");
  });
  wireBar(shot, transport, table, scope);
  scope.add(transport.speed.follow((speed) => (find("#speed").textContent = `${Math.round(speed * 100)} %`)));
  scope.add(transport.failed.follow((text) => text && said(text)));
  scope.listen(document, "theme", () => {
    Object.assign(theme, readTheme());
    lanes.redraw();
  });
  document.fonts.ready.then(() => lanes.redraw());
  inspector.show(null);
  showUndo(shot);
  scope.listen(window, "pagehide", () => scope.dispose());
  document.documentElement.dataset.sound = "ready";
}

function showUndo(/** @type {SoundShot} */ shot) {
  for (const [name, can] of [
    ["undo", shot.canUndo],
    ["redo", shot.canRedo],
  ]) {
    const button = find(`[data-do="${name}"]`);
    if (button) button.disabled = !can;
  }
  find("#frames").textContent = gettext("{frames} frames", { frames: shot.durationUs ? shot.frames : 0 });
}

/**
 * Number keys: during playback they tap turns; otherwise they give the selected turn to a character.
 * @param {SoundShot} shot
 * @param {Transport} transport
 * @param {Lanes} lanes
 * @param {SendEdit} send
 * @param {Scope} scope
 */
function wireTapping(shot, transport, lanes, send, scope) {
  const tapping = new Tapping((number) => shot.characters[number - 1]?.id);
  const nowUs = () => transport.audio.currentTime * 1e6;
  const isTyping = (/** @type {KeyboardEvent} */ event) =>
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    /** @type {Element} */ (event.target).closest("input, textarea, select, dialog[open]");
  scope.listen(document, "keydown", (/** @type {KeyboardEvent} */ event) => {
    if (!/^[1-9]$/.test(event.key) || isTyping(event)) return;
    if (transport.playing.value) {
      if (!event.repeat && tapping.press(Number(event.key), nowUs())) event.preventDefault();
      return;
    }
    const character = shot.characters[Number(event.key) - 1];
    if (character && lanes.selection?.kind === "turn")
      send("turn_give", { clip: lanes.selection.clip, turn: lanes.selection.turn, speaker: String(character.id) });
  });
  scope.listen(document, "keyup", (/** @type {KeyboardEvent} */ event) => {
    if (/^[1-9]$/.test(event.key)) tapping.release(Number(event.key), nowUs());
  });
  scope.add(
    transport.frame.follow(() => {
      if (transport.playing.value) lanes.taps = tapping.soFar(nowUs());
    }),
  );
  scope.add(
    transport.playing.follow((playing) => {
      if (playing) return;
      const taps = tapping.finish(nowUs());
      lanes.taps = [];
      if (taps.length) send("tap", { taps, speed: transport.speed.value });
    }),
  );
}

start();
