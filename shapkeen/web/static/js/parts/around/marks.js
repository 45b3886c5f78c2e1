// @ts-check
// Around's marks: horizon, seam, poles and first view on the window; the window's outline on the flat picture; in words.
// window.skAround.marks() → deeds that around.js takes over; they read its yaw, pitch, fov, way and sides.
// Needs: sphere.js, label.js; ref flat.
window.skAround = window.skAround || {};
window.skAround.marks = function () {
  return /** @type {AroundPart} */ ({
    // Horizon, seam, both poles, and where the file lets viewers look first.
    mark(pen, styles, side, left, wide, height) {
      const view = this.looking(side), place = (l, b) => window.skSphere.place(view, l, b, wide, height);
      const path = (points) => {
        let open = false;
        pen.beginPath();
        for (const [l, b] of points) {
          const at = place(l, b);
          if (!at) { open = false; continue; }
          if (open) pen.lineTo(left + at[0], at[1]); else pen.moveTo(left + at[0], at[1]);
          open = true;
        }
        pen.stroke();
      };
      const range = (from, to, step) => Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, n) => from + n * step);
      const name = (text, l, b) => { const at = place(l, b); if (at) window.skLabel.draw(pen, styles, text, left + at[0] + 8, at[1] - 6, 12); };
      pen.strokeStyle = styles.getPropertyValue("--sk-accent");
      pen.lineWidth = 1;
      pen.setLineDash([8, 5]);
      path(range(-180, 180, 2).map((l) => [l, 0]));
      pen.setLineDash([2, 4]);
      const { degrees } = this.sides[side];
      for (const l of degrees === 360 ? [180] : [-degrees / 2, degrees / 2]) path(range(-88, 88, 2).map((b) => [l, b]));
      pen.setLineDash([]);
      for (const [b, word] of [[90, "zenith"], [-90, "nadir"]]) {
        const at = place(0, b);
        if (!at) continue;
        pen.beginPath();
        pen.arc(left + at[0], at[1], 5, 0, 2 * Math.PI);
        pen.stroke();
        name(word, 0, b);
      }
      const [l, b] = this.sides[side].ahead, at = place(l, b);
      if (at) {
        pen.beginPath();
        pen.moveTo(left + at[0] - 9, at[1]); pen.lineTo(left + at[0] + 9, at[1]);
        pen.moveTo(left + at[0], at[1] - 9); pen.lineTo(left + at[0], at[1] + 9);
        pen.stroke();
        name("first view", l, b);
      }
      if (degrees === 360) name("seam", 180, 20); else name("edge", degrees / 2, 20);
      name("horizon", this.yaw > 0 ? this.yaw - this.fov * 0.36 : this.yaw + this.fov * 0.3, 0);
    },
    // The export's picture flat, with the window's outline on it.
    drawFlat(styles, picture, half) {
      const flat = this.$refs.flat, pen = flat.getContext("2d"), { width, height } = flat;
      const wide = picture.naturalWidth || picture.videoWidth, tall = picture.naturalHeight || picture.videoHeight;
      const high = Math.min(height, (width * (half ? tall / 2 : tall)) / wide), across = Math.min(width, (high * wide) / (half ? tall / 2 : tall));
      const box = { x: (width - across) / 2, y: (height - high) / 2 };
      pen.fillStyle = styles.getPropertyValue("--sk-surround");
      pen.fillRect(0, 0, width, height);
      pen.drawImage(picture, 0, half ? tall / 2 : 0, wide, half ? tall / 2 : tall, box.x, box.y, across, high);
      const { left: [x, y, w, h], degrees } = this.sides.export, canvas = this.$refs.canvas;
      const aspect = this.way === "beside" ? canvas.width / 2 - 2 : canvas.width;
      pen.fillStyle = styles.getPropertyValue("--sk-accent");
      const edge = (a, b) => {
        const [l, up] = window.skSphere.direction(this.looking("export"), a * aspect, b * canvas.height, aspect, canvas.height);
        if (Math.abs(l) > degrees / 2) return;
        pen.fillRect(box.x + (x + (l / degrees + 0.5) * w) * across - 1, box.y + (y + (0.5 - up / 180) * h) * high - 1, 2, 2);
      };
      for (let n = 0; n <= 60; n++) [[n / 60, 0], [n / 60, 1], [0, n / 60], [1, n / 60]].forEach(([a, b]) => edge(a, b));
    },
    tell() {
      const off = (angle, [less, more]) => (Math.abs(angle) < 0.5 ? "" : `${Math.abs(angle).toFixed(0)}° ${angle < 0 ? less : more}`);
      const where = [off(this.yaw, ["left", "right"]), off(this.pitch, ["down", "up"])].filter(Boolean).join(", ") || "straight ahead";
      this.view = `Looking ${where} · field of view ${this.fov.toFixed(0)}°`;
      const { width, degrees } = this.sides.export, each = width / degrees, radian = 180 / Math.PI;
      const mean = each * this.fov, centre = 2 * Math.tan(this.fov / 2 / radian) * each * radian;
      this.gets = `${each.toFixed(1)} samples a degree: this window shows as much as a picture ${mean.toFixed(0)} to ${centre.toFixed(0)} samples wide`;
    },
  });
};
