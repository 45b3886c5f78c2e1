// j and k move between the traits of the Bench, over folded families too.
document.addEventListener("keydown", function (event) {
  if (event.target.closest("input, textarea, select, canvas") || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key !== "j" && event.key !== "k") return;
  const stops = [...document.querySelectorAll("details.sk-fold > summary, details[open] [data-trait]")];
  if (!stops.length) return;
  const now = stops.indexOf(document.activeElement);
  const next = event.key === "j" ? Math.min(now + 1, stops.length - 1) : Math.max(now - 1, 0);
  stops[next].focus();
  event.preventDefault();
});
// After a slip has unfolded, the focus is on its row again.
document.addEventListener("htmx:afterSwap", function (event) {
  const row = event.detail.elt.closest && event.detail.elt.closest(".sk-trait");
  if (row) row.querySelector("[data-trait]").focus({ preventScroll: true });
});
