/**
 * The chart page: connects the board, trying and the drawing's form; the only module here that looks up elements of the
 * page.
 */
import { Scope } from "../lib/scope.js";
import { Board } from "./board.js";
import { Say } from "./say.js";

const find = (/** @type {string} */ selector) => /** @type {any} */ (document.querySelector(selector));

function start() {
  const scope = new Scope();
  const root = find(".chart-desk");
  const board = new Board(root, (text) => (find("#said").textContent = text), scope);
  const stage = find("#chart-stage");
  if (stage) {
    new Say(find(".try"), JSON.parse(stage.textContent), { say: root.dataset.say, csrf: root.dataset.csrf }, scope);
  }
  scope.listen(document, "boardChanged", () => board.refresh());
  scope.listen(document, "click", (/** @type {MouseEvent} */ event) => {
    const target = /** @type {HTMLElement} */ (event.target);
    const move = /** @type {HTMLElement | null} */ (target.closest("[data-move]"));
    if (move) board.move(Number(move.dataset.move));
    if (target.closest("[data-close]")) find("#proposal").close();
  });
  scope.listen(document, "change", (/** @type {Event} */ event) => {
    const input = /** @type {HTMLInputElement} */ (event.target);
    if (input.matches("[data-send-on-change]") && input.files?.length) input.form?.requestSubmit();
    if (input.form?.matches("[data-autosave]")) save(input.form);
  });
  scope.listen(document, "submit", (/** @type {SubmitEvent} */ event) => {
    const form = /** @type {HTMLFormElement} */ (event.target);
    if (!form.matches("[data-autosave]")) return;
    event.preventDefault();
    save(form);
  });
  scope.listen(document, "keydown", (event) => chooseByKey(event));
  scope.listen(document, "htmx:after:swap", () => {
    const dialog = find("#proposal");
    if (dialog.firstElementChild && !dialog.open) dialog.showModal();
  });
  scope.listen(find("#proposal"), "close", () => find("#proposal").replaceChildren());
  // Prevent the browser from opening files that are dropped beside the drop field.
  for (const type of ["dragover", "drop"]) scope.listen(window, type, (event) => dropAnywhere(event));
  scope.listen(window, "pagehide", () => scope.dispose());
  document.documentElement.dataset.chart = "ready";
}

/** Enter in a changed field fires both change and submit: save only once. */
function save(/** @type {HTMLFormElement} */ form) {
  if (form.dataset.saving) return;
  form.dataset.saving = "1";
  setTimeout(() => {
    delete form.dataset.saving;
    const htmx = /** @type {any} */ (window).htmx;
    // htmx may not have processed a new form yet: send it all the same, so that no input is lost.
    htmx.process(form);
    htmx.trigger(form, "save");
  });
}

/** A drawing's key opens it, the same key that sets it at the Desk. */
function chooseByKey(/** @type {KeyboardEvent} */ event) {
  const target = /** @type {Element} */ (event.target);
  if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input, textarea, select, dialog[open]")) return;
  const drawing = find(`[data-key="${CSS.escape(event.key.toLowerCase())}"]`);
  if (!drawing || event.key.length !== 1) return;
  event.preventDefault();
  const button = drawing.querySelector(".picture");
  button.focus();
  button.click();
}

function dropAnywhere(/** @type {DragEvent} */ event) {
  if (!event.dataTransfer?.types.includes("Files")) return;
  const form = find("[data-drop-files]");
  if (!form || event.defaultPrevented) return;
  event.preventDefault();
  if (event.type !== "drop" || !event.dataTransfer.files.length) return;
  const input = form.querySelector("input[type=file]");
  input.files = event.dataTransfer.files;
  input.dispatchEvent(new Event("change", { bubbles: true }));
}

start();
