// Scripts of every page: the theme switch, and forms that upload files with progress.

import { keepFocus } from "./lib/focus.js";
import { linkErrors } from "./lib/helplinks.js";
import { pieces } from "./pieces.js";
import { readForm } from "./read_form.js";
import { uploadForm } from "./upload_form.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("readForm", readForm);
  window.Alpine.data("uploadForm", uploadForm);
  window.Alpine.data("pieces", pieces);
});

document.addEventListener("click", (event) => {
  const button = event.target instanceof Element && event.target.closest("[data-switch-theme]");
  if (!button) return;
  const next = document.documentElement.dataset.bsTheme === "dark" ? "light" : "dark";
  document.documentElement.dataset.bsTheme = next;
  localStorage.setItem("theme", next);
  document.dispatchEvent(new CustomEvent("theme"));
});

keepFocus();
linkErrors(document);
document.addEventListener("htmx:after:swap", () => linkErrors(document));
