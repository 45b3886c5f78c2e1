// @ts-check
// ? shows what keys do on this page, where the page says so.
document.addEventListener("keydown", function (event) {
  const help = document.getElementById("help");
  if (event.key !== "?" || !help || event.target.closest("input, textarea, select")) return;
  if (help.open) help.close(); else help.showModal();
  event.preventDefault();
});
document.addEventListener("click", function (event) {
  const help = document.getElementById("help");
  if (help && event.target.closest("[data-help]")) help.showModal();
});

// j and k move between the traits of the Bench, over folded families too.
document.addEventListener("keydown", function (event) {
  if (event.target.closest("input, textarea, select, canvas") || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key !== "j" && event.key !== "k") return;
  const all = document.querySelectorAll(".sk-fold > summary, [data-trait]");
  const stops = [...all].filter((stop) => stop.offsetParent !== null);
  if (!stops.length) return;
  const now = stops.indexOf(document.activeElement);
  const next = event.key === "j" ? Math.min(now + 1, stops.length - 1) : Math.max(now - 1, 0);
  stops[next].focus();
  event.preventDefault();
});
// A row keeps the focus when its slip unfolds, for htmx gives it back to the element of the same id.
