// @ts-check
// Rectangle: a part of the master's picture is drawn, and its numbers put into the row that asked.
// Needs: [data-draw] buttons within a row's cell of number inputs, with data-picture and data-raster (width height);
// data-draw: corner (left, top, width, height), centred (width, height, off to the right, down), edges (left out at top,
// bottom, left, right). Needs #rectangle: a dialog with a .sk-drawn round an img and a .sk-box, and [data-words].
(function () {
  const SMALL = 2;
  let row = null, raster = [1, 1], box = null, held = null;

  const dialog = () => document.getElementById("rectangle");
  const inputs = () => [...row.querySelectorAll("input[type=text]")];
  const even = (value) => Math.round(value / 2) * 2;

  // Numbers of a row, from a box in samples of the master; and back.
  const FORMS = {
    corner: { out: ({ x, y, w, h }) => [x, y, w, h], in: ([x, y, w, h]) => ({ x, y, w, h }) },
    centred: {
      out: ({ x, y, w, h }) => [w, h, x + w / 2 - raster[0] / 2, y + h / 2 - raster[1] / 2],
      in: ([w, h, right, down]) => ({ x: raster[0] / 2 + right - w / 2, y: raster[1] / 2 + down - h / 2, w, h }),
    },
    edges: {
      out: ({ x, y, w, h }) => [y / raster[1], (raster[1] - y - h) / raster[1], x / raster[0], (raster[0] - x - w) / raster[0]].map((share) => Number(share.toFixed(4))),
      in: ([top, bottom, left, right]) => ({ x: left * raster[0], y: top * raster[1], w: (1 - left - right) * raster[0], h: (1 - top - bottom) * raster[1] }),
    },
  };
  const form = () => FORMS[row.querySelector("[data-draw]").dataset.draw];

  function put(next) {
    const [width, height] = raster, w = Math.max(SMALL, Math.min(even(next.w), width)), h = Math.max(SMALL, Math.min(even(next.h), height));
    box = { x: Math.max(0, Math.min(even(next.x), width - w)), y: Math.max(0, Math.min(even(next.y), height - h)), w, h };
    const place = dialog().querySelector(".sk-box").style;
    /** @type {[string, number][]} */ ([["left", box.x / width], ["top", box.y / height], ["width", w / width], ["height", h / height]]).forEach(([side, share]) => { place[side] = `${share * 100}%`; });
    dialog().querySelector("[data-words]").textContent = `${w}×${h} at ${box.x}, ${box.y} of ${width}×${height}; ${(w / h).toFixed(3)}:1`;
  }
  function at(event) {
    const place = dialog().querySelector(".sk-drawn").getBoundingClientRect();
    return { x: ((event.clientX - place.left) / place.width) * raster[0], y: ((event.clientY - place.top) / place.height) * raster[1] };
  }
  function open(button) {
    row = button.closest("td");
    raster = button.dataset.raster.split(" ").map(Number);
    dialog().querySelector("img").src = button.dataset.picture;
    dialog().showModal();
    const typed = inputs().map((input) => input.value.trim()), numbers = typed.map(Number);
    put(typed.every(Boolean) && !numbers.some(Number.isNaN) ? form().in(numbers) : { x: 0, y: 0, w: raster[0], h: raster[1] });
    dialog().querySelector(".sk-drawn").focus();
  }
  function take() {
    form().out(box).forEach((value, place) => { inputs()[place].value = value; });
    inputs()[0].dispatchEvent(new Event("change", { bubbles: true }));
    dialog().close();
  }

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-draw]");
    if (button) open(button);
    else if (event.target.closest("#rectangle [data-take]")) take();
  });
  document.addEventListener("pointerdown", (event) => {
    if (!event.target.closest("#rectangle .sk-drawn")) return;
    held = at(event);
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const to = at(event);
    put({ x: Math.max(Math.min(held.x, to.x), 0), y: Math.max(Math.min(held.y, to.y), 0), w: Math.abs(to.x - held.x), h: Math.abs(to.y - held.y) });
  });
  document.addEventListener("pointerup", () => { held = null; });
  document.addEventListener("keydown", (event) => {
    if (!event.target.closest("#rectangle .sk-drawn")) return;
    const far = event.ctrlKey ? 32 : 2, [dx, dy] = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[event.key] || [0, 0];
    if (event.key === "Enter") take();
    else if (!dx && !dy) return;
    else if (event.shiftKey) put({ ...box, w: box.w + dx, h: box.h + dy });
    else put({ ...box, x: box.x + dx, y: box.y + dy });
    event.preventDefault();
  });
})();
