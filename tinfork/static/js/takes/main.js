/** The take library and a take's page: waveforms, and playing takes and pieces. */

import { Listening } from "../lib/listening.js";
import { Peaks } from "../lib/peaks.js";
import { drawWave } from "../lib/wave.js";

const colour = (/** @type {string} */ name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
const listening = new Listening();
/** @type {HTMLElement | null} */
let pressed = null;

function mark(/** @type {boolean} */ playing) {
  for (const button of document.querySelectorAll("[data-play]"))
    button.toggleAttribute("data-playing", playing && button === pressed);
}

document.addEventListener("click", (event) => {
  const button =
    event.target instanceof Element ? /** @type {HTMLElement | null} */ (event.target.closest("[data-play]")) : null;
  if (!button) return;
  if (button.hasAttribute("data-playing")) {
    listening.stop();
    return;
  }
  pressed = button;
  const { play = "", gain = "0", from = "0", to } = button.dataset;
  listening.play(play, { gainDb: Number(gain), fromS: Number(from) / 1e6, toS: to ? Number(to) / 1e6 : Infinity });
});
listening.onState = mark;

/** The small waveforms of the library: one coarse level each, loaded when they become visible. */
function drawSmall() {
  const seen = new IntersectionObserver((entries) => {
    for (const entry of entries) {
      if (!entry.isIntersecting) continue;
      seen.unobserve(entry.target);
      drawOne(/** @type {HTMLCanvasElement} */ (entry.target));
    }
  });
  for (const canvas of document.querySelectorAll("canvas[data-peaks]")) seen.observe(canvas);
}

async function drawOne(/** @type {HTMLCanvasElement} */ canvas) {
  // The coarsest level that still has two bins a pixel.
  const levels = (canvas.dataset.peaks || "").trim().split(" ");
  const finest = (Number(canvas.dataset.length) / 1e6) * 1000;
  const level = levels.findLastIndex((_, at) => finest / 4 ** at >= canvas.width * 2);
  const answer = await fetch(levels[Math.max(0, level)]);
  if (!answer.ok) return;
  const data = new Int8Array(await answer.arrayBuffer());
  const bins = data.length / 2;
  const loudest = data.reduce((most, value) => Math.max(most, Math.abs(value)), 8);
  const range = (/** @type {number} */ from, /** @type {number} */ to) => {
    let low = 127;
    let high = -127;
    const first = Math.min(bins - 1, Math.floor(from * bins));
    for (let at = first; at < Math.max(first + 1, Math.ceil(to * bins)) && at < bins; at += 1) {
      low = Math.min(low, data[2 * at]);
      high = Math.max(high, data[2 * at + 1]);
    }
    return [low, high];
  };
  drawWave(canvas, range, { colour: colour("--wave"), loudest });
}

/** A take's waveform, with the playhead and its pieces. */
function drawLarge() {
  const canvas = /** @type {HTMLCanvasElement | null} */ (document.querySelector("#take-wave"));
  const told = document.querySelector("#take-document");
  if (!canvas || !told) return;
  const take = JSON.parse(told.textContent || "{}");
  const peaks = new Peaks(take);
  const context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
  let nowUs = -1;
  const draw = () => {
    const level = peaks.level(take.durationUs / canvas.clientWidth);
    if (level < 0) return;
    const range = (/** @type {number} */ from, /** @type {number} */ to) =>
      peaks.range(level, from * take.durationUs, to * take.durationUs);
    drawWave(canvas, range, { colour: colour("--wave"), loudest: peaks.loudest });
    canvas.dataset.drawn = "true";
    const x = (/** @type {number} */ timeUs) => (timeUs / take.durationUs) * canvas.clientWidth;
    context.fillStyle = colour("--tin");
    for (const row of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("tr[data-start]"))) {
      context.fillRect(
        x(Number(row.dataset.start)),
        canvas.clientHeight - 3,
        Math.max(1, x(Number(row.dataset.end)) - x(Number(row.dataset.start)) - 1),
        3,
      );
    }
    context.fillStyle = colour("--rust");
    if (nowUs >= 0) context.fillRect(x(nowUs) - 0.75, 0, 1.5, canvas.clientHeight);
  };
  peaks.onArrival = draw;
  peaks.level(take.durationUs / canvas.clientWidth);
  new ResizeObserver(draw).observe(canvas);
  document.addEventListener("theme", draw);
  listening.onTime = (seconds) => {
    nowUs = seconds * 1e6;
    draw();
  };
  canvas.addEventListener("click", (event) => {
    pressed = document.querySelector(".play-button.big");
    const share = event.offsetX / canvas.clientWidth;
    listening.play(take.url, { gainDb: take.gainDb, fromS: (share * take.durationUs) / 1e6 });
  });
}

drawSmall();
drawLarge();
