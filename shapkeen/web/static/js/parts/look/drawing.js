// @ts-check
// Look's canvas: both pictures by layout, what is laid over them, the probe's place and the scale.
// window.skLook.drawing() → methods that look.js takes over; they read its pictures, way, line and spot.
// Needs: overlay.js, remarks.js, label.js.
window.skLook = window.skLook || {};
window.skLook.drawing = function () {
  return /** @type {LookPart} */ ({
    draw() {
      const canvas = this.$refs.canvas, pen = canvas.getContext("2d");
      const styles = getComputedStyle(document.documentElement), { width, height } = canvas;
      pen.fillStyle = styles.getPropertyValue("--sk-surround");
      pen.fillRect(0, 0, width, height);
      if (!this.pictures.master) return;
      for (const [side, left, wide, clipLeft, clipWide] of this.parts()) {
        const picture = this.pictures[side];
        if (!picture) continue;
        const box = this.place(picture, left, wide, height);
        pen.save();
        pen.beginPath();
        pen.rect(clipLeft, 0, clipWide, height);
        pen.clip();
        pen.imageSmoothingEnabled = box.w < picture.naturalWidth * 1.5;
        if (this.film && side !== "difference") {
          const high = this.film.videoHeight / 2;
          pen.drawImage(this.film, 0, side === "master" ? 0 : high, this.film.videoWidth, high, box.x, box.y, box.w, box.h);
        } else pen.drawImage(picture, box.x, box.y, box.w, box.h);
        if (side !== "master") this.outline(pen, styles, box);
        this.lay(pen, styles, side, box);
        if (side !== "difference") window.skRemarks.draw(pen, styles, side === "master" ? box : this.inside(box), this.chosen().export, this.remarkSpot);
        if (this.probing) this.mark(pen, styles, side === "master" ? box : this.inside(box));
        pen.restore();
        const right = this.way === "wipe" && side === "export";
        const x = right ? Math.min(clipLeft + 12, width - 80) : Math.max(this.way === "wipe" ? clipLeft + clipWide - 62 : box.x + 8, clipLeft + 8);
        if (clipWide > 70) window.skLabel.draw(pen, styles, side, x, this.way === "wipe" ? height - 12 : Math.max(box.y, 0) + 20);
      }
      if (this.way === "wipe") {
        pen.fillStyle = styles.getPropertyValue("--sk-accent");
        pen.fillRect(Math.round(this.line * width) - 1, 0, 2, height);
      }
      if (this.way === "difference") this.scale(pen, styles, height);
    },
    // The scale of the difference picture: the inks and places of the core's heat.py.
    scale(pen, styles, height) {
      const left = 12, top = height - 34, wide = 220;
      const ramp = pen.createLinearGradient(left, 0, left + wide, 0);
      [[0, "#050505"], [0.1, "#4d4a42"], [0.5, "#e8dbbf"], [1, "#ff7a66"]].forEach(([at, ink]) => ramp.addColorStop(at, ink));
      pen.fillStyle = styles.getPropertyValue("--sk-page");
      pen.fillRect(left - 8, top - 8, wide + 110, 42);
      pen.fillStyle = ramp;
      pen.fillRect(left, top, wide, 10);
      pen.fillStyle = styles.getPropertyValue("--sk-text");
      pen.font = '12px "Plex Mono", monospace';
      /** @type {[number, string][]} */ ([[0, "0"], [0.1, "1"], [0.5, "5"], [1, "10 and more"]]).forEach(([at, text]) => pen.fillText(text, left + wide * at - 3, top + 25));
      pen.fillText(this.$root.dataset.unit, left + wide + 10, top + 9);
    },
    // The master's own box within the box of an export that shows a part of it, or more.
    inside(box) {
      const [x, y, w, h] = this.rect;
      return { x: box.x + x * box.w, y: box.y + y * box.h, w: w * box.w, h: h * box.h };
    },
    // What is laid over a picture, to judge its shape and framing by.
    lay(pen, styles, side, box) {
      const isExport = side !== "master", { aspects, circle } = this.$root.dataset;
      const aspect = this.stored ? Number(aspects.split(" ")[Number(isExport)]) : 1;
      window.skOverlay.draw(pen, styles.getPropertyValue("--sk-accent"), box, {
        kind: this.over, circle: (isExport ? Number(circle) : 1) / aspect, promised: isExport ? this.inside(box) : box,
      });
    },
    // Areas of the export whose light sits elsewhere than expected.
    outline(pen, styles, box) {
      pen.strokeStyle = styles.getPropertyValue("--sk-lost");
      pen.lineWidth = 1.5;
      for (const [x, y, w, h] of this.areas) pen.strokeRect(box.x + x * box.w - 3, box.y + y * box.h - 3, w * box.w + 6, h * box.h + 6);
    },
    mark(pen, styles, box) {
      const x = box.x + this.spot.x * box.w, y = box.y + this.spot.y * box.h;
      pen.strokeStyle = styles.getPropertyValue("--sk-accent");
      pen.lineWidth = 1;
      if (this.spot.w) return pen.strokeRect(x, y, this.spot.w * box.w, this.spot.h * box.h);
      pen.beginPath();
      [[-9, 0, -3, 0], [3, 0, 9, 0], [0, -9, 0, -3], [0, 3, 0, 9]].forEach(([a, b, c, d]) => { pen.moveTo(x + a, y + b); pen.lineTo(x + c, y + d); });
      pen.stroke();
    },
  });
};
