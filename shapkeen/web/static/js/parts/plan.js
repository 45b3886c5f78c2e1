// @ts-check
// Plan: moving the cut by dragging and by keys; the server draws everything anew afterwards.
document.addEventListener("alpine:init", function () {
  function dragOf(cut) {
    const numbers = (name) => cut.dataset[name].split(" ").map(Number);
    const [free, scale, offset] = [numbers("free"), numbers("scale"), numbers("offset")];
    const inputs = cut.dataset.inputs.split(" ").map((id) => document.getElementById(id));
    const by = [0, 0];
    return {
      // Moves the drawn cut by so many master samples from where it lay, kept inside the picture.
      moveTo(across, down) {
        [across, down].forEach(function (wanted, axis) {
          by[axis] = Math.min(Math.max(wanted, -offset[axis]), free[axis] - offset[axis]);
        });
        cut.setAttribute("transform", `translate(${by[0] * scale[0]} ${by[1] * scale[1]})`);
        return this;
      },
      place() {
        inputs.forEach(function (input, axis) {
          if (input && free[axis]) input.value = (100 * (offset[axis] + by[axis]) / free[axis]).toFixed(3);
        });
        return by[0] !== 0 || by[1] !== 0;
      },
      samples(x, y) { return [x / scale[0], y / scale[1]]; },
      moved: by,
    };
  }
  const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  Alpine.data("planning", function () {
    let drag = null;
    let start = null;
    const point = (event, drawing) => new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
    return {
      init() {
        const form = this.$el;
        const send = () => form.dispatchEvent(new Event("moved"));
        form.addEventListener("pointerdown", function (event) {
          const cut = event.target.closest("#cut");
          if (!cut) return;
          drag = dragOf(cut);
          start = point(event, cut.ownerSVGElement);
          cut.setPointerCapture(event.pointerId);
        });
        form.addEventListener("pointermove", function (event) {
          if (!drag) return;
          const cut = document.getElementById("cut");
          const now = point(event, cut.ownerSVGElement);
          drag.moveTo(...drag.samples(now.x - start.x, now.y - start.y));
        });
        form.addEventListener("pointerup", function () {
          if (drag && drag.place()) send();
          drag = null;
        });
        form.addEventListener("pointercancel", () => { drag = null; });
        let pending = null;
        let keyed = null;
        form.addEventListener("keydown", function (event) {
          const step = STEPS[event.key];
          if (!step || !event.target.closest("#cut")) return;
          event.preventDefault();
          const far = event.shiftKey ? 20 : 2;
          keyed = keyed || dragOf(event.target);
          keyed.moveTo(keyed.moved[0] + step[0] * far, keyed.moved[1] + step[1] * far);
          clearTimeout(pending);
          pending = setTimeout(function () {
            if (keyed.place()) send();
            keyed = null;
          }, 250);
        });
      },
      // Enter in a field shows what follows from it, and does not keep the plan yet.
      stay(event) {
        if (event.target.matches("input:not([name=delivery_name])")) {
          event.preventDefault();
          event.target.blur();
        }
      },
      open(event) {
        window.location.href = `${event.target.dataset.address}?specification=${event.target.value}`;
      },
    };
  });

  Alpine.data("copying", function () {
    return {
      words: "Copy as text",
      async copy() {
        const rows = [...document.querySelectorAll("#sheet-text tr")];
        const text = rows.map((row) => [...row.cells].map((cell) => cell.textContent.trim()).filter(Boolean).join("\t")).join("\n");
        try {
          await navigator.clipboard.writeText(text);
          this.words = "Copied";
        } catch {
          this.words = "The browser refused: select and copy by hand";
        }
      },
      print() { window.print(); },
    };
  });
});
