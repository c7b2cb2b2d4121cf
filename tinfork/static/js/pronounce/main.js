/** The page of pronunciations: plays a word's sounds, and inserts chosen sounds. */
import { gettext } from "../lib/gettext.js";
import { Scope } from "../lib/scope.js";
import { load } from "../lib/spoken.js";

const root = /** @type {HTMLElement} */ (document.querySelector(".pronounce"));
const part = (/** @type {string} */ name) => /** @type {any} */ (root.querySelector(`[data-part="${name}"]`));

/** @type {HTMLInputElement | null} */
let field = null;

function start() {
  const scope = new Scope();
  scope.listen(root, "focusin", (event) => {
    const input = /** @type {HTMLInputElement} */ (event.target);
    if (input.matches(".ipa")) field = input;
  });
  scope.listen(root, "click", (event) => {
    const target = /** @type {HTMLElement} */ (event.target);
    const sound = target.closest("[data-sound]");
    if (sound instanceof HTMLElement) pick(sound.dataset.sound || "");
    const again = target.closest("[data-usual-again]");
    if (again instanceof HTMLButtonElement) clear(again);
    if (target.closest("[data-hear]")) hear(/** @type {HTMLFormElement} */ (target.closest("form")));
  });
  scope.listen(window, "pagehide", () => scope.dispose());
  document.documentElement.dataset.pronounce = "ready";
}

/** Insert a sound at the last position of the cursor. */
function pick(/** @type {string} */ sound) {
  if (!field || field.readOnly) {
    say(gettext("Click into a word's sounds first."));
    return;
  }
  field.setRangeText(
    sound,
    field.selectionStart ?? field.value.length,
    field.selectionEnd ?? field.value.length,
    "end",
  );
  field.focus();
}

/** An empty pronunciation means the default. */
function clear(/** @type {HTMLButtonElement} */ button) {
  const input = button.form?.querySelector(".ipa");
  if (input instanceof HTMLInputElement) input.value = "";
}

async function hear(/** @type {HTMLFormElement} */ form) {
  say("");
  const body = new FormData(form);
  try {
    const response = await fetch(root.dataset.say || "", {
      method: "POST",
      body,
      headers: { "X-CSRFToken": root.dataset.csrf || "" },
    });
    const answer = await response.json();
    if (!response.ok) {
      say(answer.error);
      return;
    }
    const audio = /** @type {HTMLAudioElement} */ (part("sound"));
    load(audio, answer.sound);
    form.dataset.heard = answer.sounds;
    await audio.play();
  } catch {
    say(gettext("The word could not be played. Check the connection and try again."));
  }
}

function say(/** @type {string} */ text) {
  part("trouble").textContent = text;
}

start();
