/** The bar above the Desk and above a shot's sound: buttons from the table of keys, playing, frame and timecode. */
import { timecode } from "./clock.js";
import { gettext } from "./gettext.js";

const find = (/** @type {string} */ selector) => /** @type {HTMLElement} */ (document.querySelector(selector));

/**
 * @param {{number: (frame: number) => number, rate: import("./clock.js").FrameRate, frames: number}} shot
 * @param {import("./transport.js").Transport} transport
 * @param {Record<string, import("./keys.js").Key>} table
 * @param {import("./scope.js").Scope} scope
 */
export function wireBar(shot, transport, table, scope) {
  for (const button of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-do]"))) {
    const entry = table[button.dataset.do || ""];
    button.title = `${entry.what} (${entry.shown})`;
    scope.listen(button, "click", () => {
      entry.run();
      // Keep the keyboard focus on the page instead of the button.
      button.blur();
    });
  }
  scope.add(
    transport.playing.follow((on) => {
      find('[data-do="play"]').setAttribute("aria-label", on ? gettext("Pause") : gettext("Play"));
      find('[data-do="play"]').dataset.playing = String(on);
    }),
  );
  scope.add(
    transport.frame.follow((frame) => {
      const digits = Math.max(4, String(shot.number(shot.frames)).length);
      find("#frame").textContent = String(shot.number(frame)).padStart(digits, "0");
      find("#timecode").textContent = timecode(frame, shot.rate);
    }),
  );
}
