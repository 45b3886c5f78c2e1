// @ts-check
// Choosing deliveries on the Shelf for one act on all of them. What is ticked outlives the list,
// which is drawn anew while something is measured. Needs: form#many, and ticks that belong to it.
(function () {
  /** @type {Set<string>} */
  const chosen = new Set();
  let all = false;
  const form = () => /** @type {HTMLFormElement | null} */ (document.getElementById("many"));
  /** @returns {HTMLInputElement[]} */
  const ticks = () => [...document.querySelectorAll('input[name="attempt"][form="many"]')].map((one) => /** @type {HTMLInputElement} */ (one));

  function show() {
    const bar = form();
    if (!bar) return;
    ticks().forEach((one) => { one.checked = all || chosen.has(one.value); });
    bar.hidden = !all && chosen.size === 0;
    const words = all ? "All found are chosen" : `${chosen.size} chosen`;
    const told = bar.querySelector("[data-chosen]");
    if (told && told.textContent !== words) told.textContent = words;
    const which = /** @type {HTMLInputElement} */ (bar.elements.namedItem("which"));
    which.value = all ? "all" : "ticked";
    // What is chosen on other pages of the list goes along.
    bar.querySelectorAll("input[data-away]").forEach((one) => one.remove());
    const here = new Set(ticks().map((one) => one.value));
    if (!all) [...chosen].filter((one) => !here.has(one)).forEach((one) => {
      const away = document.createElement("input");
      Object.assign(away, { type: "hidden", name: "attempt", value: one });
      away.dataset.away = "";
      bar.append(away);
    });
  }
  document.addEventListener("change", (event) => {
    const tick = /** @type {HTMLInputElement} */ (event.target);
    if (tick.name !== "attempt" || tick.getAttribute("form") !== "many") return;
    if (all) ticks().forEach((one) => chosen.add(one.value));
    all = false;
    if (tick.checked) chosen.add(tick.value); else chosen.delete(tick.value);
    show();
  });
  document.addEventListener("click", (event) => {
    const act = /** @type {HTMLElement} */ (event.target).dataset?.choose;
    if (!act) return;
    all = act === "all";
    if (act === "none") chosen.clear();
    if (act === "shown") ticks().forEach((one) => chosen.add(one.value));
    show();
  });
  document.addEventListener("DOMContentLoaded", show);
  document.addEventListener("htmx:afterSwap", show);
})();
