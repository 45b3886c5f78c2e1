// @ts-check
// Look's geometry: where pictures lie on the canvas, zoom and place, and which place is under a point.
// window.skLook.place() → state and deeds that look.js takes over. Places are the master's throughout, as fractions.
window.skLook = window.skLook || {};
window.skLook.place = function () {
  const MOST_ZOOM = 32;
  return /** @type {LookPart} */ ({
    MOST_ZOOM, zoom: 1, centre: { x: 0.5, y: 0.5 }, line: 0.5,
    // A picture's shape: as its file states it, or as a player shows it that ignores pixel aspects.
    shapeOf(picture) {
      const aspects = this.$root.dataset.aspects.split(" ").map(Number);
      const aspect = this.stored ? aspects[picture === this.pictures.master ? 0 : 1] : 1;
      return picture.naturalWidth / picture.naturalHeight / aspect;
    },
    // Where a picture lies on a part of the canvas, in its own shape, with the zoom.
    place(picture, left, width, height) {
      const shapes = ["master", "export"].map((s) => this.shapeOf(this.pictures[s]));
      const widest = Math.max(Number(this.$root.dataset.shape), ...shapes);
      const high = Math.min(height, width / widest) * this.zoom;
      const wide = high * this.shapeOf(picture);
      return { x: left + width / 2 - this.centre.x * wide, y: height / 2 - this.centre.y * high, w: wide, h: high };
    },
    parts() {
      const { width, height } = this.$refs.canvas, at = Math.round(this.line * width);
      const half = width / 2 - 2;
      if (this.way === "beside") return [["master", 0, half, 0, half], ["export", half + 4, half, half + 4, half]];
      if (this.way === "alternate") return [[this.showsExport ? "export" : "master", 0, width, 0, width]];
      if (this.way === "difference") return [["difference", 0, width, 0, width]];
      return [["master", 0, width, 0, at], ["export", 0, width, at, width - at]].map((part) => [...part, height]);
    },
    at(event) {
      const canvas = this.$refs.canvas, box = canvas.getBoundingClientRect();
      return { x: ((event.clientX - box.left) / box.width) * canvas.width, y: ((event.clientY - box.top) / box.height) * canvas.height };
    },
    isExport(point) {
      if (this.way === "beside") return point.x > this.$refs.canvas.width / 2;
      if (this.way === "wipe") return point.x > this.line * this.$refs.canvas.width;
      return this.way === "difference" || this.showsExport;
    },
    // The box of the picture that lies under a point of the canvas.
    boxUnder(point) {
      const { width, height } = this.$refs.canvas, half = width / 2 - 2, right = this.isExport(point);
      const [left, wide] = this.way === "beside" ? [right ? half + 4 : 0, half] : [0, width];
      return this.place(this.pictures[right ? "export" : "master"], left, wide, height);
    },
    // The place in the master under a point of the canvas, as fractions.
    inPicture(point) {
      const right = this.isExport(point), box = this.boxUnder(point);
      const cut = (value) => Math.max(0, Math.min(value, 0.99999));
      const [x, y, w, h] = right ? this.rect : [0, 0, 1, 1];
      return { x: cut(((point.x - box.x) / box.w - x) / w), y: cut(((point.y - box.y) / box.h - y) / h) };
    },
    // What is under the pointer stays under it.
    wheel(event) {
      event.preventDefault();
      if (!this.pictures.master) return;
      const point = this.at(event), before = this.boxUnder(point);
      const spot = { x: (point.x - before.x) / before.w, y: (point.y - before.y) / before.h };
      this.resize(event.deltaY < 0 ? 1.25 : 0.8);
      if (this.zoom === 1) return;
      const after = this.boxUnder(point);
      this.pan(spot.x - (point.x - after.x) / after.w, spot.y - (point.y - after.y) / after.h);
    },
    resize(factor) { this.setZoom(this.zoom * factor); },
    setZoom(zoom) {
      this.zoom = Math.max(1, Math.min(zoom, MOST_ZOOM));
      if (this.zoom === 1) this.centre = { x: 0.5, y: 0.5 };
      else if (!this.pictures.whole) this.sharpen();
      this.remember();
      this.draw();
    },
    fit() { this.setZoom(1); },
    oneToOne() {
      const { width, height } = this.$refs.canvas, picture = this.pictures.export;
      if (!picture) return;
      const whole = this.still("export", true);
      whole.then((full) => this.setZoom(full.naturalHeight / (this.place(picture, 0, this.way === "beside" ? width / 2 - 2 : width, height).h / this.zoom)));
    },
    pan(dx, dy) {
      this.centre = { x: Math.max(0, Math.min(this.centre.x + dx, 1)), y: Math.max(0, Math.min(this.centre.y + dy, 1)) };
      this.draw();
    },
    // Past the size of a page's still, every sample is wanted.
    sharpen() {
      const asked = `${this.index} ${this.display}`;
      Promise.all(["master", "export"].map((side) => this.still(side, true))).then(([master, other]) => {
        if (asked !== `${this.index} ${this.display}`) return;
        Object.assign(this.pictures, { master, export: other, whole: true });
        this.draw();
      }).catch((error) => this.say(error.message));
    },
  });
};
