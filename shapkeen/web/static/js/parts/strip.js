// @ts-check
// Strip: every frame of the export as a column, as high as it differs; a place in it is a moment.
// Needs: rows of moments in #moments; refs strip; data-unit on an element round it.
// Says "moment" with {index} when one is picked; hears "shown" with {index}, "stretch" with {rows}: its first and last.
document.addEventListener("alpine:init", function () {
  const DELTA = 4, WORST_PLACE = 5, SSIM = 2, TOPS = [5, 10, 20, 50, 100];
  Alpine.data("strip", function () {
    return {
      rows: [], stretch: null, index: 0, held: false, top: 5,
      init() {
        this.rows = JSON.parse(document.getElementById("moments").textContent);
        this.index = Number(/** @type {HTMLElement} */ (this.$root.closest("[data-chosen]")).dataset.chosen);
        const most = Math.max(...this.rows.map((row) => this.value(row, DELTA)));
        this.top = TOPS.find((top) => most <= top) || TOPS[TOPS.length - 1];
        this.draw();
      },
      stretched(event) { this.stretch = event.detail.rows; this.draw(); },
      shown(event) { this.index = event.detail.index; this.draw(); },
      // ΔE, or where colours are not known 1 − SSIM in hundredths.
      value(row, place) {
        return row[place] === null ? (row[SSIM] === null ? 0 : (1 - row[SSIM]) * 100) : row[place];
      },
      draw() {
        const canvas = this.$refs.strip, pen = canvas.getContext("2d"), { width, height } = canvas;
        const styles = getComputedStyle(document.documentElement), ink = (name) => styles.getPropertyValue(`--sk-${name}`);
        const column = width / this.rows.length, wide = Math.max(column - (column > 4 ? 1 : 0), 1);
        pen.fillStyle = ink("sheet");
        pen.fillRect(0, 0, width, height);
        const bar = (row, i, place, colour) => {
          const high = Math.max(Math.min(this.value(row, place) / this.top, 1) * height, 1);
          pen.fillStyle = ink(colour);
          pen.fillRect(i * column, height - high, wide, high);
        };
        this.rows.forEach((row, i) => bar(row, i, WORST_PLACE, "raised"));
        this.rows.forEach((row, i) => bar(row, i, DELTA, "rule"));
        pen.fillStyle = ink("text");
        pen.fillRect(0, Math.round(height * (1 - 1 / this.top)), width, 1);
        const scale = `${this.rows.some((row) => row[DELTA] !== null) ? /** @type {HTMLElement} */ (this.$root.closest("[data-unit]")).dataset.unit : "(1 − SSIM) · 100"} 0 to ${this.top}`;
        pen.font = '11px "Plex Mono", monospace';
        pen.fillStyle = ink("page");
        pen.fillRect(0, 0, pen.measureText(scale).width + 10, 15);
        pen.fillStyle = ink("text");
        pen.fillText(scale, 5, 11);
        pen.fillStyle = ink("accent");
        if (this.stretch) {
          const [from, to] = this.stretch.map((row, end) => Math.round((row + end) * column));
          pen.fillRect(from, 0, Math.max(to - from, 2), 3);
          [from, to - 2].forEach((x) => pen.fillRect(x, 0, 2, 12));
        }
        pen.fillRect(Math.round((this.index + 0.5) * column) - 1, 0, 2, height);
      },
      at(event) {
        const box = this.$refs.strip.getBoundingClientRect();
        return Math.max(0, Math.min(Math.floor(((event.clientX - box.left) / box.width) * this.rows.length), this.rows.length - 1));
      },
      pick(index) {
        this.index = Math.max(0, Math.min(index, this.rows.length - 1));
        this.draw();
        this.$dispatch("moment", { index: this.index });
      },
      grab(event) { this.held = true; event.target.setPointerCapture(event.pointerId); this.pick(this.at(event)); },
      drag(event) { if (this.held) this.pick(this.at(event)); },
      release() { this.held = false; },
      worst(event) { this.pick(Number(event.currentTarget.dataset.index)); },
      key(event) {
        const deeds = { Home: 0, End: this.rows.length - 1, PageUp: this.index - 24, PageDown: this.index + 24,
          ArrowLeft: this.index - 1, ArrowRight: this.index + 1 };
        if (event.key in deeds && !event.ctrlKey && !event.altKey) {
          this.pick(deeds[event.key]);
          event.preventDefault();
          event.stopPropagation();
        }
      },
      get ends() { return this.rows.length ? this.rows[this.rows.length - 1][1] : 0; },
      get frame() { return this.rows.length ? this.rows[this.index][1] : 0; },
    };
  });
});
