/** Adds a help link to each error on a page: to the help about this page, unless the error has its own link. */

import { gettext } from "./gettext.js";

const ERRORS = "[role=alert], ul.wrong";

/** @param {Element} error @param {string} address */
function linkBeside(error, address) {
  const link = document.createElement("a");
  link.className = "help-link";
  link.href = address;
  link.target = "_blank";
  link.textContent = gettext("How to fix this");
  const show = () =>
    (link.hidden =
      !error.textContent?.trim() || /** @type {HTMLElement} */ (error).hidden || Boolean(error.querySelector("a")));
  new MutationObserver(show).observe(error, {
    childList: true,
    characterData: true,
    subtree: true,
    attributeFilter: ["hidden"],
  });
  error.after(link);
  show();
}

/** Link all errors on the page; called again after a part of the page was replaced. */
export function linkErrors(/** @type {ParentNode} */ root) {
  const address = document.body.dataset.help;
  if (!address) return;
  for (const error of root.querySelectorAll(ERRORS))
    if (!error.nextElementSibling?.matches(".help-link")) linkBeside(error, address);
}
