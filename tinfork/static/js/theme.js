// Runs before the first paint, so it is a plain script: light unless chosen or asked for otherwise.
(() => {
  const chosen = localStorage.getItem("theme");
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
})();
