// Runs before the page is drawn, so that a dark page does not flash light.
(() => {
  const kept = localStorage.getItem("theme");
  const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
})();
