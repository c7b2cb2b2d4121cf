// A plain script, since it must run before the first paint: light unless the person or the system chose dark.
(() => {
  const chosen = localStorage.getItem("theme");
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
})();
