// The page of remarks: shows drawings over their pictures.
import { fetchInTurn } from "../lib/inturn.js";
import { Sketch } from "../lib/sketch.js";

fetchInTurn([...document.querySelectorAll("img[data-src]")].map((image) => /** @type {HTMLImageElement} */ (image)));

for (const drawn of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-drawing]"))) {
  const canvas = document.createElement("canvas");
  drawn.append(canvas);
  new Sketch(canvas).show(JSON.parse(drawn.dataset.drawing || "[]"));
}
