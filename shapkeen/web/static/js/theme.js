// @ts-check
// Sets the theme before the page is drawn: the system's, until one is chosen and kept on this machine.
(function () {
  const root = document.documentElement, system = matchMedia("(prefers-color-scheme: light)");
  const chosen = () => localStorage.getItem("sk-chosen-theme");
  function set() {
    const name = chosen() || (system.matches ? "light" : "dark");
    root.dataset.theme = root.dataset.bsTheme = name;
    for (const words of document.querySelectorAll("[data-theme-words]")) words.textContent = name === "light" ? "Dark theme" : "Light theme";
  }
  set();
  system.addEventListener("change", set);
  document.addEventListener("DOMContentLoaded", set);
  document.addEventListener("click", function (event) {
    if (!event.target.closest("[data-theme-switch]")) return;
    localStorage.setItem("sk-chosen-theme", root.dataset.theme === "light" ? "dark" : "light");
    set();
  });
})();
