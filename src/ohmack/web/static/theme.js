// Before the first paint: the theme the person chose, else the machine's.
(function () {
  let kept = null;
  try { kept = localStorage.getItem("ohmack-theme"); } catch (_) { /* storage may be off */ }
  const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
  document.documentElement.classList.add("scripted");
})();
