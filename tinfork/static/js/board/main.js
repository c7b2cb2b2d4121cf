// The board: animated thumbnails are loaded when they become visible, and cards are dragged to a status and a place.
import { fetchInTurn } from "../lib/inturn.js";

const form = /** @type {HTMLFormElement | null} */ (document.getElementById("plan"));
const board = /** @type {HTMLElement | null} */ (document.querySelector(".board"));

fetchInTurn([...document.querySelectorAll("img[data-src]")].map((image) => /** @type {HTMLImageElement} */ (image)));
if (board?.dataset.canChange && form) {
  /** @type {HTMLElement | null} */
  let dragged = null;
  const cardAt = (/** @type {Event} */ event) =>
    /** @type {HTMLElement | null} */ (event.target instanceof Element ? event.target.closest(".shot-card") : null);
  const columnAt = (/** @type {Event} */ event) =>
    /** @type {HTMLElement | null} */ (event.target instanceof Element ? event.target.closest("[data-status]") : null);
  const clear = () => board.querySelectorAll(".over, .before").forEach((one) => one.classList.remove("over", "before"));

  board.addEventListener("dragstart", (event) => {
    dragged = cardAt(event);
    if (dragged) event.dataTransfer?.setData("text/plain", dragged.dataset.shot ?? "");
  });
  board.addEventListener("dragover", (event) => {
    const column = columnAt(event);
    if (!dragged || !column) return;
    event.preventDefault();
    clear();
    column.classList.add("over");
    cardAt(event)?.classList.add("before");
  });
  board.addEventListener("dragend", clear);
  board.addEventListener("drop", (event) => {
    const column = columnAt(event);
    if (!dragged || !column) return;
    event.preventDefault();
    const before = cardAt(event);
    send(form, dragged, column, before === dragged ? null : before);
  });
}

/** Send the place where a card was dropped, like the form does; the response shows the new board. */
function send(
  /** @type {HTMLFormElement} */ form,
  /** @type {HTMLElement} */ card,
  /** @type {HTMLElement} */ column,
  /** @type {HTMLElement | null} */ before,
) {
  // If the dragged card is selected, all selected cards move with it.
  const chosen = [...form.querySelectorAll(".shot-card:has(:checked)")].map((one) => /** @type {HTMLElement} */ (one));
  const moved = chosen.includes(card) ? chosen : [card];
  const own = document.createElement("form");
  own.method = "post";
  own.action = form.action;
  const token = form.querySelector("[name=csrfmiddlewaretoken]");
  const fields = [
    ["csrfmiddlewaretoken", token instanceof HTMLInputElement ? token.value : ""],
    ...moved.map((one) => ["shots", one.dataset.shot ?? ""]),
    ["status", column.dataset.status ?? ""],
    before && !moved.includes(before) ? ["before", before.dataset.shot ?? ""] : ["place", "last"],
  ];
  for (const [name, value] of fields) {
    const input = document.createElement("input");
    input.type = "hidden";
    input.name = name;
    input.value = value;
    own.append(input);
  }
  document.body.append(own);
  own.submit();
}
