// @ts-check
// Recipes put into an order: rows are dragged, or moved by buttons; the server keeps it.
document.addEventListener("alpine:init", function () {
  Alpine.data("order", function () {
    let lifted = "";
    let moving = false;
    // A recipe's rows: its own, and one more for each further clip.
    const rowsOf = (body, recipe) => [...body.querySelectorAll(`tr[data-recipe="${recipe}"]`)];
    const recipes = (body) => [...new Set([...body.rows].map((row) => row.dataset.recipe))];
    return {
      lift(event) {
        lifted = event.currentTarget.dataset.recipe;
        moving = true;
        event.dataTransfer.effectAllowed = "move";
        event.currentTarget.addEventListener("dragend", () => { moving = false; }, { once: true });
      },
      hold(event) {
        if (moving) event.preventDefault(); // no poll may take the row away meanwhile
      },
      over(event) {
        const row = event.target.closest("tr[data-recipe]");
        if (!lifted || !row || row.dataset.recipe === lifted) return;
        const body = row.parentElement;
        const behind = event.clientY > row.getBoundingClientRect().top + row.offsetHeight / 2;
        const others = rowsOf(body, row.dataset.recipe);
        const place = behind ? others[others.length - 1].nextSibling : others[0];
        rowsOf(body, lifted).forEach((one) => body.insertBefore(one, place));
      },
      drop() {
        if (!lifted) return;
        lifted = "";
        moving = false;
        this.send();
      },
      move(event) {
        const row = event.currentTarget.closest("tr");
        const body = row.parentElement;
        const all = recipes(body);
        const at = all.indexOf(row.dataset.recipe);
        const other = all[at + Number(event.currentTarget.dataset.by)];
        if (other === undefined) return;
        const [first, second] = Number(event.currentTarget.dataset.by) < 0 ? [row.dataset.recipe, other] : [other, row.dataset.recipe];
        const place = rowsOf(body, second)[0];
        rowsOf(body, first).forEach((one) => body.insertBefore(one, place));
        this.send();
      },
      send() { document.getElementById("places").dispatchEvent(new Event("moved")); },
    };
  });
});
