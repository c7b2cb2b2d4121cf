/** Puts the Desk together: the only module that looks things up in the page. */
import { fillKeys } from "../lib/help.js";
import { Scope } from "../lib/scope.js";
import { Signal } from "../lib/signal.js";
import { wireBar } from "./bar.js";
import { readTheme } from "./canvas.js";
import { DialBoard } from "./dials.js";
import { keyTable, listenForKeys } from "./keys.js";
import { Lens } from "./lens.js";
import { Shot } from "./model.js";
import { Looks } from "./looks.js";
import { Peaks } from "./peaks.js";
import { Pins } from "./pins.js";
import { Pictures } from "./pictures.js";
import { ReelView } from "./reel.js";
import { Sheet } from "./sheet.js";
import { Stage } from "./stage.js";
import { Strip } from "./strip.js";
import { Transport } from "./transport.js";
import { Tray } from "./tray.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

function start() {
  const scope = new Scope();
  const shot = new Shot(JSON.parse(find("#desk-document").textContent));
  const theme = readTheme();
  const transport = new Transport(shot, find("#sound"), scope);
  const peaks = new Peaks(shot.sound);
  const pictures = new Map(shot.characters.map((character) => [character.id, new Pictures(character.drawings)]));
  /** The character in hand: the Tray is theirs. */
  const hand = new Signal(shot.characters[0]);
  const parts = { shot, transport, peaks, pictures, hand };
  const sheet = new Sheet(find("#sheet"), parts, scope, theme);
  const lens = new Lens(find("#lens canvas"), parts, scope, theme);
  const strip = new Strip(find("#strip canvas"), { ...parts, lens }, scope, theme);
  const stage = new Stage(find("#stage"), parts, scope);
  const tray = new Tray(find("#tray"), parts, scope);
  if (shot.reel) new ReelView(find("#reel"), shot.reel, shot, transport, scope);
  wireTabs(shot, hand, scope);
  const views = [sheet, lens, strip];
  const redraw = () => views.forEach((view) => view.redraw());
  /** A character's holds are others now: everything shows them. */
  const changed = () => {
    stage.refresh();
    tray.refresh(transport.frame.value);
    showTiming(hand.value);
    looks.show();
    redraw();
  };
  new DialBoard(find("#tray .dial-board"), { shot, hand, changed, trouble: (text) => (find("#trouble").textContent = text) }, scope);
  scope.add(hand.follow(showTiming));
  const tools = find(".pin-tools");
  const token = find(".dial-board input[name=csrfmiddlewaretoken]").value;
  const looks = new Looks(find("#tray .looks"), { shot, transport, token, redraw, trouble: (text) => (find("#trouble").textContent = text) }, scope);
  const pins = tools && new Pins(tools, { shot, transport, hand, token, changed, trouble: (text) => (find("#trouble").textContent = text) }, scope);
  if (pins) tray.onChoose = (drawing) => pins.set(drawing);
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
  const dialog = find("#keys");
  const table = keyTable({ transport, lens, shot, pins, looks, help: () => dialog.showModal() });
  listenForKeys(table, (key) => Boolean(pins?.press(key)), scope);
  wireBar(shot, transport, table, scope);
  wireDeskBar(shot, transport, table, scope);
  fillKeys(dialog, table);
  showSpan(shot, lens);
  scope.listen(window, "pagehide", () => scope.dispose());
  document.documentElement.dataset.desk = "ready";
}

/**
 * @param {Shot} shot
 * @param {Signal<import("./model.js").Character>} hand
 * @param {Scope} scope
 */
function wireTabs(shot, hand, scope) {
  const tabs = /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll(".tabs [data-character]"));
  for (const tab of tabs) {
    scope.listen(tab, "click", () => {
      hand.value = shot.characters.find((character) => String(character.id) === tab.dataset.character) || hand.value;
      tab.blur();
    });
  }
  scope.add(hand.follow((character) => tabs.forEach((tab) => tab.setAttribute("aria-pressed", String(tab.dataset.character === String(character.id))))));
}

/** Beside the Lens: how far the mouth leads, and how long it holds. */
function showTiming(/** @type {import("./model.js").Character} */ character) {
  find('#lens [data-part="timing"]').textContent = `lead ${character.dials.lead} · shortest ${character.dials.shortest}`;
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
    button.title = `${button.textContent} speed, pitch kept (${table.speed.shown} goes through them)`;
    scope.listen(button, "click", () => {
      transport.setSpeed(Number(button.dataset.speed));
      button.blur();
    });
  }
  scope.add(transport.speed.follow((speed) => speeds.forEach((b) => b.setAttribute("aria-pressed", String(Number(b.dataset.speed) === speed)))));
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

/** For screen readers: what is at the playhead, once it stands still. */
function say(/** @type {Shot} */ shot, /** @type {number} */ frame) {
  const { words } = shot.heardOn(frame);
  const shown = shot.characters.map((c) => `${c.name} drawing ${shot.label(shot.holdAt(c, frame))}`).join(", ");
  find("#said").textContent = `Frame ${shot.number(frame)}, ${shown}${words.length ? `, ${words.map((w) => w.text).join(" ")}` : ""}`;
}

start();
