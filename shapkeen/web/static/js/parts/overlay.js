// @ts-check
// Overlay: what Look draws over both pictures to judge shape and framing by.
// window.skOverlay.draw(pen, ink, box, {kind, promised, circle}): box of the picture on the canvas;
// promised: the promised picture's box; circle: shown width of a circle ÷ its height.
(function () {
  // Shares of width and height that stay inside: EBU R 95, action and graphics (from memory).
  const SAFE = [0.93, 0.9];

  function line(pen, x1, y1, x2, y2) { pen.beginPath(); pen.moveTo(x1, y1); pen.lineTo(x2, y2); pen.stroke(); }

  const DEEDS = {
    nothing() {},
    thirds(pen, { x, y, w, h }) {
      for (const share of [1 / 3, 2 / 3]) {
        line(pen, x + share * w, y, x + share * w, y + h);
        line(pen, x, y + share * h, x + w, y + share * h);
      }
    },
    "safe areas"(pen, { x, y, w, h }) {
      for (const share of SAFE) pen.strokeRect(x + (1 - share) * w / 2, y + (1 - share) * h / 2, share * w, share * h);
    },
    circle(pen, { x, y, w, h }, told) {
      const high = h * 0.36;
      pen.beginPath();
      pen.ellipse(x + w / 2, y + h / 2, high * told.circle, high, 0, 0, 2 * Math.PI);
      pen.stroke();
      pen.setLineDash([4, 4]);
      pen.beginPath();
      pen.ellipse(x + w / 2, y + h / 2, high, high, 0, 0, 2 * Math.PI);
      pen.stroke();
    },
    "promised frame"(pen, box, told) {
      const { x, y, w, h } = told.promised || box;
      pen.strokeRect(x, y, w, h);
    },
  };

  window.skOverlay = {
    draw(pen, ink, box, told) {
      pen.save();
      pen.strokeStyle = ink;
      pen.lineWidth = 1;
      DEEDS[told.kind](pen, box, told);
      pen.restore();
    },
  };
})();
