// @ts-check
// Received's canvas: both sides by layout, each named.
// window.skReceived.drawing() → deeds that received.js takes over; they read its pictures, film, way and line.
// Needs: label.js.
window.skReceived = window.skReceived || {};
window.skReceived.drawing = function () {
  return /** @type {ReceivedPart} */ ({
    // What is drawn of each side: [picture, x, y, width, height] within it.
    sources() {
      if (this.exact && this.pictures) {
        return ["sent", "got"].map((side) => [this.pictures[side], 0, 0, this.pictures[side].naturalWidth, this.pictures[side].naturalHeight]);
      }
      if (this.film && this.film.readyState >= 2) {
        const wide = this.film.videoWidth, high = this.film.videoHeight / 2;
        return [[this.film, 0, 0, wide, high], [this.film, 0, high, wide, high]];
      }
      if (!this.pictures) return null;
      return ["sent", "got"].map((side) => [this.pictures[side], 0, 0, this.pictures[side].naturalWidth, this.pictures[side].naturalHeight]);
    },
    draw() {
      const canvas = this.$refs.canvas, pen = canvas.getContext("2d"), { width, height } = canvas;
      const styles = getComputedStyle(document.documentElement);
      pen.fillStyle = styles.getPropertyValue("--sk-surround");
      pen.fillRect(0, 0, width, height);
      const sources = this.sources();
      if (!sources) return;
      const half = Math.floor(width / 2) - 2, cut = Math.round(this.line * width);
      const parts = {
        wipe: [[0, 0, width, 0, cut], [1, 0, width, cut, width - cut]],
        beside: [[0, 0, half, 0, half], [1, half + 4, half, half + 4, half]],
        alternate: [[this.showsReceived ? 1 : 0, 0, width, 0, width]],
      }[this.way];
      for (const [side, left, wide, clipLeft, clipWide] of parts) {
        const [picture, x, y, w, h] = sources[side];
        const high = Math.min(height, wide * h / w) * this.zoom, broad = high * w / h;
        pen.save();
        pen.beginPath();
        pen.rect(clipLeft, 0, clipWide, height);
        pen.clip();
        pen.imageSmoothingEnabled = broad < w * 1.5;
        pen.drawImage(picture, x, y, w, h, left + wide / 2 - this.centre.x * broad, height / 2 - this.centre.y * high, broad, high);
        pen.restore();
        if (clipWide > 90) this.name(pen, styles, side, clipLeft, clipWide, height);
      }
      if (this.way === "wipe") {
        pen.fillStyle = styles.getPropertyValue("--sk-accent");
        pen.fillRect(cut - 1, 0, 2, height);
      }
    },
    name(pen, styles, side, left, wide, height) {
      const against = this.$refs.against, scale = window.devicePixelRatio || 1;
      const text = side ? `received: ${this.rendition.name}` : against.options[against.selectedIndex].text;
      const long = window.skLabel.width(pen, text, 13 * scale);
      if (long + 24 > wide) return;
      window.skLabel.draw(pen, styles, text, side && this.way === "wipe" ? left + wide - long - 12 : left + 12, height - 13, 13 * scale);
    },
  });
};
