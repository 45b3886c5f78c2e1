// @ts-check
// Folding: what a person folded or unfolded stays so, over what the page would do by itself.
// Needs: details with data-fold, a name of its own; kept by this browser.
(function () {
  const PLACE = "sk-folds", MOST = 400;
  const kept = () => JSON.parse(localStorage.getItem(PLACE) || "{}");

  function put(root) {
    const folds = kept();
    root.querySelectorAll("details[data-fold]").forEach((one) => {
      const is = folds[one.dataset.fold];
      if (is !== undefined) one.open = is;
    });
  }
  document.addEventListener("DOMContentLoaded", () => put(document));
  document.addEventListener("htmx:afterSwap", () => put(document));
  document.addEventListener("click", (event) => {
    const details = event.target.closest("summary")?.parentElement;
    if (!details?.dataset.fold) return;
    const folds = { ...kept(), [details.dataset.fold]: !details.open }; // it is about to change
    localStorage.setItem(PLACE, JSON.stringify(Object.fromEntries(Object.entries(folds).slice(-MOST))));
  });
})();
