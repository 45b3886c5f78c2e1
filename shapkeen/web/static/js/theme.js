// Sets the theme before the page is drawn, and keeps the choice on this machine.
(function () {
  const root = document.documentElement;
  function set(name) {
    root.dataset.theme = name;
    root.dataset.bsTheme = name === "day" ? "light" : "dark";
  }
  set(localStorage.getItem("sk-theme") === "day" ? "day" : "booth");
  document.addEventListener("click", function (event) {
    if (!event.target.closest("[data-theme-switch]")) return;
    const next = root.dataset.theme === "day" ? "booth" : "day";
    localStorage.setItem("sk-theme", next);
    set(next);
  });
})();
