// @ts-check
// How: explanations under drawings, folded away for good once one is; and tips that Escape takes away.
// Needs: details.sk-how; .sk-word and rows with .sk-tip.
(function () {
  const PLACE = "sk-how-folded";
  const folded = () => localStorage.getItem(PLACE) === "yes";
  function put(root) { root.querySelectorAll(".sk-how").forEach((one) => { one.open = !folded(); }); }

  document.addEventListener("DOMContentLoaded", () => put(document));
  document.addEventListener("htmx:afterSettle", (event) => put(event.target));
  document.addEventListener("click", (event) => {
    const one = event.target.closest(".sk-how > summary");
    if (!one) return;
    localStorage.setItem(PLACE, one.parentElement.open ? "yes" : "no"); // it is about to change
    if (one.parentElement.open) document.querySelectorAll(".sk-how").forEach((other) => { if (other !== one.parentElement) other.open = false; });
  });
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape") document.body.toggleAttribute("data-no-tips", true);
  });
  for (const kind of ["pointerover", "focusin"]) {
    document.addEventListener(kind, (event) => { if (event.target.closest(".sk-word, tr")) document.body.removeAttribute("data-no-tips"); });
  }
})();
