/** Edits that could not be saved, each with the reason, and buttons to repeat or discard it. */
import { gettext } from "./gettext.js";

/**
 * @param {HTMLElement} root
 * @param {import("./sync.js").Sync} sync
 * @param {import("./scope.js").Scope} scope
 */
export function showRefused(root, sync, scope) {
  const show = () => {
    root.hidden = !sync.refused.length;
    root.replaceChildren(
      ...sync.refused.map(({ edit, why }) => {
        const row = document.createElement("p");
        row.append(
          gettext("Your change to {shot} could not be kept. {why} ", { shot: edit.what || "this shot", why }),
          button(gettext("Do it again"), "again", edit.token),
          " ",
          button(gettext("Leave it"), "leave", edit.token),
        );
        return row;
      }),
    );
  };
  scope.listen(root, "click", (event) => {
    const pressed = /** @type {HTMLElement} */ (event.target).closest("[data-refused]");
    if (!(pressed instanceof HTMLElement)) return;
    const { refused, token } = pressed.dataset;
    if (refused === "again") sync.again(token || "");
    else sync.leave(token || "");
  });
  sync.refusals = show;
  show();
}

function button(/** @type {string} */ text, /** @type {string} */ does, /** @type {string} */ token) {
  const out = document.createElement("button");
  out.type = "button";
  out.className = "tool";
  Object.assign(out.dataset, { refused: does, token });
  out.textContent = text;
  return out;
}
