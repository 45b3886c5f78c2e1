// @ts-check
// Reads values under the pointer on a drawing whose svg carries data-axes (core, figures/axes.py).
document.addEventListener("alpine:init", function () {
  Alpine.data("reading", function () {
    return {
      words: "",
      large: false,
      resize() { this.large = !this.large; },
      valueOn(axis, at) {
        const part = (at - axis.first) / (axis.last - axis.first);
        if (part < 0 || part > 1) return null;
        const place = part * (axis.values.length - 1);
        const low = Math.min(Math.floor(place), axis.values.length - 2);
        const value = axis.values[low] + (axis.values[low + 1] - axis.values[low]) * (place - low);
        return `${axis.name} ${value.toFixed(axis.digits)}${axis.unit ? " " + axis.unit : ""}`;
      },
      read(event) {
        const drawing = event.target.closest("svg[data-axes]");
        if (!drawing) return;
        const axes = JSON.parse(drawing.dataset.axes);
        const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
        let x = point.x;
        const period = Number(drawing.dataset.period);
        while (period && x >= axes.x.first + period) x -= period;
        const found = [this.valueOn(axes.x, x), this.valueOn(axes.y, point.y)];
        this.words = found.includes(null) ? "" : found.join(" · ");
      },
      clear() { this.words = ""; },
    };
  });
});
