/** Sets up the Desk: the only module that looks up elements of the page. */

import { wireBar } from "../lib/bar.js";
import { readTheme } from "../lib/canvas.js";
import { CommandList } from "../lib/commands.js";
import { gettext } from "../lib/gettext.js";
import { listenForKeys } from "../lib/keys.js";
import { Peaks } from "../lib/peaks.js";
import { ReelView } from "../lib/reel.js";
import { showRefused } from "../lib/refused.js";
import { Scope } from "../lib/scope.js";
import { Signal } from "../lib/signal.js";
import { Transport } from "../lib/transport.js";
import { Alike } from "./alike.js";
import { Arrange } from "./arrange.js";
import { CameraMirror } from "./camera.js";
import { Columns } from "./columns.js";
import { DialBoard, GRIDS } from "./dials.js";
import { Edits } from "./edits.js";
import { Hearing } from "./hearing.js";
import { keyTable } from "./keys.js";
import { Lens } from "./lens.js";
import { LensPointer } from "./lenspointer.js";
import { Live } from "./live.js";
import { Looks } from "./looks.js";
import { Mirror } from "./mirror.js";
import { Shot } from "./model.js";
import { Moving } from "./moving.js";
import { Panes } from "./panes.js";
import { Pictures } from "./pictures.js";
import { ReferenceFilm } from "./reference.js";
import { Remarking } from "./remarking.js";
import { Selection } from "./selection.js";
import { Sheet } from "./sheet.js";
import { SheetPointer } from "./sheetpointer.js";
import { SheetView } from "./sheetview.js";
import { placePictures } from "./smallpictures.js";
import { Spectrogram } from "./spectrogram.js";
import { Stage } from "./stage.js";
import { soundsOf } from "./store.js";
import { Strip } from "./strip.js";
import { Tapping } from "./tapping.js";
import { Tray } from "./tray.js";
import { Versions } from "./versions.js";
import { Volume } from "./volume.js";
import { WordWork } from "./wordwork.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

async function start() {
  const scope = new Scope();
  const told = JSON.parse(find("#desk-document").textContent);
  told.phonemes = soundsOf(told.words);
  await placePictures(told);
  const shot = new Shot(told);
  const theme = readTheme();
  const transport = new Transport(shot, find("#sound"), scope);
  const hearing = new Hearing(shot, scope);
  transport.hearing = hearing;
  const peaks = new Peaks(shot.sound);
  const pictures = new Map(
    shot.characters.map((character) => [character.id, new Pictures(character.drawings, () => redraw())]),
  );
  /** The active character, whose Tray is shown. */
  const activeCharacter = new Signal(shot.characters[0]);
  const selection = new Selection(shot, activeCharacter);
  const columns = new Columns(shot.characters, window.localStorage);
  const said = (/** @type {string} */ text) => (find("#trouble").textContent = text);
  const token = find(".dial-board input[name=csrfmiddlewaretoken]").value;
  const parts = { shot, transport, peaks, pictures, activeCharacter, columns, selection };
  new Panes(find("#main"), scope);
  const sheet = new Sheet(find("#sheet"), parts, scope, theme);
  const lens = new Lens(find("#lens canvas"), parts, scope, theme);
  const strip = new Strip(find("#strip canvas"), { ...parts, lens }, scope, theme);
  const stage = new Stage(find("#stage"), parts, scope);
  const camera = new CameraMirror(find("#camera"), { said, changed: () => stage.layOut() }, scope);
  const tray = new Tray(find("#tray"), parts, scope);
  const mirror = new Mirror(find("#holds"), parts, scope);
  if (shot.reel) new ReelView(find("#reel"), shot.reel, shot, transport, scope);
  wireTabs(shot, activeCharacter, scope);
  const views = [sheet, lens, strip];
  const redraw = () => views.forEach((view) => view.redraw());
  /** Redraw after a change: all views, or, for keys of motion, only those that show them. */
  const changed = (motionAlone = false) => {
    if (motionAlone) {
      stage.move();
      if (moving?.isOn.value) moving.show();
      else showMotion();
      markTools();
      redraw();
      return;
    }
    stage.refresh();
    tray.refresh(transport.frame.value);
    mirror.refresh();
    showTiming(activeCharacter.value);
    arrange.fill();
    if (moving?.isOn.value) moving.show();
    else showMotion();
    looks.show();
    remarking.show();
    dials.refresh();
    volume.show();
    markTools();
    redraw();
  };
  let markTools = () => {};
  scope.add(activeCharacter.follow(showTiming));
  const edits = new Edits(find("#sheet-tools")?.dataset.edit || "", {
    document: told,
    shot,
    transport,
    activeCharacter,
    selection,
    token,
    changed,
    said,
    left: () => window.location.reload(),
    sounds: () => sounds(),
  });
  if (edits.sync) showRefused(find("#refused"), edits.sync, scope);
  const arrange = new Arrange(
    find("#arrange"),
    { stage, shot, edits, activeCharacter, said, changes: find("#sheet-tools").dataset.changes || "" },
    scope,
  );
  const moved = document.querySelector("#moving");
  const moving =
    moved instanceof HTMLFormElement
      ? new Moving(
          moved,
          { stage, shot, edits, activeCharacter, transport, selection, said, changed: () => showMotion() },
          scope,
        )
      : null;
  /** Show the active column of motion on the Lens and the Sheet, too. */
  const showMotion = () => {
    lens.curve = moving?.curve || null;
    lens.redraw();
    columns.setMoving(shot, activeCharacter.value, moving?.curve?.part || "");
    sheet.widen();
  };
  if (moving) scope.add(moving.isOn.follow(showMotion));
  scope.add(activeCharacter.follow(showMotion));
  const panel = document.querySelector("#following");
  if (panel instanceof HTMLDetailsElement)
    new ReferenceFilm(
      panel,
      find("#reference"),
      {
        shot,
        transport,
        camera,
        activeCharacter,
        token,
        said,
        changed: () => stage.layOut(),
        edits,
        isLocked: (part) => Boolean(moving?.isPassLocked(part)),
      },
      scope,
    );
  const volume = new Volume(find('[data-do="asRecorded"]'), { shot, edits, transport, activeCharacter }, scope);
  const asked = document.querySelector("#alike");
  const alike =
    asked instanceof HTMLElement
      ? new Alike(asked, { token, edits, said, changes: find("#sheet-tools").dataset.changes || "" })
      : null;
  const dials = new DialBoard(
    find("#tray .dial-board"),
    { shot, activeCharacter, edits, changed: () => changed(), trouble: said },
    scope,
  );
  const words = new WordWork(
    { panel: find("#wordwork"), lens, shot, edits, transport, selection, activeCharacter, alike },
    scope,
  );
  const looks = new Looks(
    find("#tray .looks"),
    { shot, transport, edits, alike, activeCharacter, selection, words },
    scope,
  );
  const sheetPointer = new SheetPointer(
    { sheet, shot, edits, transport, selection, activeCharacter, note: find("#note") },
    scope,
  );
  new LensPointer({ lens, shot, edits, transport, selection, activeCharacter, words }, scope);
  new SheetView(find("#sheet-view"), { columns, sheet }, scope);
  const tapping = new Tapping({ shot, transport, edits, activeCharacter, redraw }, scope);
  const versions = new Versions(
    find("#versions"),
    { shot, edits, token, bar: find("#compare"), sheet, changed, said },
    scope,
  );
  const remarking = new Remarking(
    document.querySelector("#remark"),
    find("#stage .world"),
    { shot, transport, selection, edits, token, said },
    scope,
  );
  edits.before = () => versions.now && versions.show(false);
  if (edits.may) tray.onChoose = (drawing) => edits.write(drawing);
  peaks.onArrival = redraw;
  peaks.fetch(shot.sound.peaks.length - 1);
  lens.onMove = () => {
    strip.redraw();
    showSpan(shot, lens);
  };
  for (const set of pictures.values()) set.ready.then(redraw);
  document.fonts.ready.then(redraw);
  scope.listen(document, "theme", () => {
    Object.assign(theme, readTheme());
    redraw();
  });
  let sounding = shot.sound.url;
  /** Replace the sound if it changed. */
  const sounds = () => {
    if (shot.sound.url === sounding) return;
    sounding = shot.sound.url;
    transport.renew(sounding);
    peaks.renew(shot.sound);
    hearing.renew();
    showSpectrogram();
  };
  const dialog = find("#keys");
  const clicks = new Signal(false);
  const spectrogram = new Signal(false);
  const table = keyTable({
    transport,
    lens,
    shot,
    edits,
    looks,
    selection,
    words,
    activeCharacter,
    volume,
    around: () =>
      transport.playSpan(
        Math.max(0, transport.frame.value - Math.ceil(shot.rate.nominal / 2)),
        transport.frame.value + Math.ceil(shot.rate.nominal / 2),
      ),
    playSelected: () => transport.playSpan(edits.aim.first, edits.aim.end),
    note: () => sheetPointer.openNote(transport.frame.value),
    remark: () => remarking.turn(),
    versions: () => versions.open(),
    clicks: () => (clicks.value = !clicks.value),
    spectrogram: () => (spectrogram.value = !spectrogram.value),
    list: () => find("#holds").focus(),
    view: () => openPanel(find("#sheet-view")),
    dials: () => tray.turnOver(),
    closeUp: () => (stage.isClose.value = !stage.isClose.value),
    camera: () => camera.toggle(),
    // Arranging and moving exclude each other.
    arrange: () => {
      moving?.turn(false);
      arrange.turn();
    },
    move: () => {
      arrange.turn(false);
      moving?.turn();
    },
    moving,
    help: () => commands.open(),
  });
  const commands = new CommandList(/** @type {HTMLDialogElement} */ (dialog), table, "desk", scope);
  listenForKeys(table, (key) => tapping.press(key) || edits.press(key), scope);
  wireBar(shot, transport, table, scope);
  wireDeskBar(shot, transport, table, scope);
  scope.add(
    camera.isOn.follow((on) => document.querySelector('[data-do="camera"]')?.setAttribute("aria-pressed", String(on))),
  );
  scope.add(stage.isClose.follow((on) => find('[data-do="closeUp"]').setAttribute("aria-pressed", String(on))));
  markTools = wireTools({ shot, edits, selection, activeCharacter, transport }, scope);
  const showSpectrogram = wireHearing(
    { clicks, spectrogram, hearing, transport, activeCharacter, shot, lens, said },
    scope,
  );
  showSpan(shot, lens);
  scope.listen(window, "pagehide", () => scope.dispose());
  // Prepare the sound of single frames in advance.
  scope.listen(document, "pointerdown", () => hearing.load(), { once: true });
  const linked = Number(window.location.hash.slice(1));
  if (linked) transport.seek(Math.min(shot.frames - 1, Math.max(0, linked - shot.firstFrame)));
  document.documentElement.dataset.desk = "ready";
  // Request changes of others only after the Desk is visible.
  const { changes, live = "" } = find("#sheet-tools").dataset;
  let begins = requestAnimationFrame(() => {
    begins = requestAnimationFrame(
      () => new Live(find("#here"), { url: changes, live, shot, transport, edits }, scope),
    );
  });
  scope.add(() => cancelAnimationFrame(begins));
}

function openPanel(/** @type {HTMLDetailsElement} */ panel) {
  panel.open = true;
  /** @type {HTMLElement | null} */ (panel.querySelector("input"))?.focus();
}

/**
 * Update the undo and pin buttons, the number of unsaved edits, and the forms that use the selection; returns the
 * function that does it.
 * @param {{shot: Shot, edits: Edits, selection: Selection, activeCharacter: Signal<import("./model.js").Character>, transport: Transport}} parts
 * @param {Scope} scope
 */
function wireTools({ shot, edits, selection, activeCharacter, transport }, scope) {
  const button = (/** @type {string} */ name) =>
    /** @type {HTMLButtonElement | null} */ (document.querySelector(`[data-do="${name}"]`));
  const enable = (/** @type {string} */ name, /** @type {boolean} */ on) => {
    const found = button(name);
    if (found) found.disabled = !on;
  };
  const mark = () => {
    const range = selection.range.value;
    enable("unpin", range ? true : Boolean(edits.pin));
    document.documentElement.dataset.waiting = String(edits.waiting.value);
    find("#waiting").textContent =
      edits.waiting.value > 2 ? gettext("{value} edits being saved", { value: edits.waiting.value }) : "";
    find("#selected").textContent = range
      ? `${shot.number(range.first)}–${shot.number(range.end - 1)} (${range.end - range.first})`
      : "";
    // The selection is the range for showing a set and for re-reading.
    for (const form of /** @type {NodeListOf<HTMLFormElement>} */ (document.querySelectorAll(".set-form"))) {
      if (!range) continue;
      /** @type {HTMLInputElement} */ (form.elements.namedItem("first")).value = String(shot.number(range.first));
      /** @type {HTMLInputElement} */ (form.elements.namedItem("last")).value = String(shot.number(range.end - 1));
    }
  };
  const sets = /** @type {HTMLFormElement | null} */ (document.querySelector('.set-form[data-part="set"]'));
  if (sets) {
    scope.listen(sets, "submit", (event) => {
      event.preventDefault();
      const value = (/** @type {string} */ name) =>
        Number(/** @type {HTMLInputElement} */ (sets.elements.namedItem(name)).value);
      edits.send("set", {
        chart: value("chart"),
        first: value("first") - shot.firstFrame,
        last: value("last") - shot.firstFrame,
      });
    });
  }
  scope.add(edits.canUndo.follow((on) => enable("undo", on)));
  scope.add(edits.canRedo.follow((on) => enable("redo", on)));
  scope.add(edits.waiting.follow(mark));
  scope.add(selection.range.follow(mark));
  scope.add(activeCharacter.follow(mark));
  scope.add(transport.frame.follow(mark));
  return mark;
}

/**
 * Clicks at the start of holds, and the spectrogram; returns the function that updates it.
 * @param {{clicks: Signal<boolean>, spectrogram: Signal<boolean>, hearing: Hearing, transport: Transport,
 *   activeCharacter: Signal<import("./model.js").Character>, shot: Shot, lens: Lens, said: (text: string) => void}} parts
 * @param {Scope} scope
 */
function wireHearing({ clicks, spectrogram, hearing, transport, activeCharacter, shot, lens, said }, scope) {
  let last = -1;
  scope.add(
    transport.frame.follow((frame) => {
      const at = shot.holdIndex(activeCharacter.value, frame);
      if (clicks.value && transport.playing.value && at !== last) hearing.click();
      last = at;
    }),
  );
  scope.add(clicks.follow((on) => find('[data-do="clicks"]').setAttribute("aria-pressed", String(on))));
  const show = async () => {
    const on = spectrogram.value;
    find('[data-do="spectrogram"]').setAttribute("aria-pressed", String(on));
    const buffer = on ? await hearing.load() : null;
    if (on && !buffer) said(gettext("The spectrogram needs a connection and a sound of up to 20 minutes."));
    lens.spectrogram = buffer && spectrogram.value ? new Spectrogram(buffer) : null;
    lens.redraw();
  };
  scope.add(spectrogram.follow(show));
  return show;
}

/**
 * @param {Shot} shot
 * @param {Signal<import("./model.js").Character>} activeCharacter
 * @param {Scope} scope
 */
function wireTabs(shot, activeCharacter, scope) {
  const tabs = /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll(".tabs [data-character]"));
  for (const tab of tabs) {
    scope.listen(tab, "click", () => {
      activeCharacter.value =
        shot.characters.find((character) => String(character.id) === tab.dataset.character) || activeCharacter.value;
      tab.blur();
    });
  }
  scope.add(
    activeCharacter.follow((character) =>
      tabs.forEach((tab) => tab.setAttribute("aria-pressed", String(tab.dataset.character === String(character.id)))),
    ),
  );
}

/** The lead and hold settings beside the Lens. */
function showTiming(/** @type {import("./model.js").Character} */ character) {
  const { dials } = character;
  find('#lens [data-part="timing"]').textContent = dials
    ? `lead ${dials.lead} · shortest ${dials.shortest}${Number(dials.grid) > 1 ? gettext(" · locked on {grid}", { grid: GRIDS[Number(dials.grid)] }) : ""}`
    : gettext("set by hand");
}

function showSpan(/** @type {Shot} */ shot, /** @type {Lens} */ lens) {
  const first = shot.number(shot.rate.frameAt(Math.round(lens.view.startUs)));
  const last = shot.number(Math.min(shot.frames - 1, shot.rate.frameAt(Math.round(lens.view.endUs))));
  find("#lens-span").textContent = `${first}–${last}`;
}

/**
 * @param {Shot} shot
 * @param {Transport} transport
 * @param {Record<string, import("./keys.js").Key>} table
 * @param {Scope} scope
 */
function wireDeskBar(shot, transport, table, scope) {
  const speeds = /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-speed]"));
  for (const button of speeds) {
    button.title = gettext("{textContent} speed, pitch kept ({shown} goes through them)", {
      textContent: button.textContent,
      shown: table.speed.shown,
    });
    scope.listen(button, "click", () => {
      transport.setSpeed(Number(button.dataset.speed));
      button.blur();
    });
  }
  scope.add(
    transport.speed.follow((speed) =>
      speeds.forEach((b) => b.setAttribute("aria-pressed", String(Number(b.dataset.speed) === speed))),
    ),
  );
  scope.add(transport.loop.follow((on) => find('[data-do="loop"]').setAttribute("aria-pressed", String(on))));
  scope.add(
    transport.playing.follow((on) => {
      if (!on) say(shot, transport.frame.value);
    }),
  );
  scope.add(
    transport.frame.follow((frame) => {
      if (!transport.playing.value) say(shot, frame);
    }),
  );
  scope.add(transport.failed.follow((text) => (find("#trouble").textContent = text)));
}

/** Announce what is at the playhead to screen readers, once it stops. */
function say(/** @type {Shot} */ shot, /** @type {number} */ frame) {
  const { words } = shot.heardOn(frame);
  const shown = shot.characters.map((c) => `${c.name} drawing ${shot.label(shot.holdAt(c, frame))}`).join(", ");
  find("#said").textContent = [
    gettext("Frame {frame}", { frame: shot.number(frame) }),
    shown,
    ...(words.length ? [words.map((w) => w.text).join(" ")] : []),
  ].join(", ");
}

start();
