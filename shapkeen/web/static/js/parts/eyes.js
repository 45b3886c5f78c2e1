// @ts-check
// Both eyes: one picture for coloured glasses, one eye after the other, or their difference; convergence slides.
// Needs: data-base, data-chosen, data-display, data-kept; rows in #moments; #sides, #glasses; refs canvas, way,
// shift, kept; #parallax with data-limits and a drawing whose .of-export moves. Hears "moment", says "shown".
document.addEventListener("alpine:init", function () {
  const FRONT = 0xffc0dce9, BEYOND = 0xff667aff; // the accent and the ink of what is lost, as bytes lie
  const UNKNOWN = 0, MIDDLE = 128, STEPS = 10; // the core's rehearsed/depth.py
  Alpine.data("botheyes", function () {
    // Not for Alpine to watch: pictures as light.
    const own = { held: null, showsRight: false, light: null, depth: null, turnOver: null };
    return {
      index: 0, side: "export", shift: 0, marks: true, exchanged: false, words: "", told: "", ghosts: "", shiftWords: "",
      rows: JSON.parse(document.getElementById("moments").textContent),
      sides: JSON.parse(document.getElementById("sides").textContent),
      glasses: JSON.parse(document.getElementById("glasses").textContent),
      init() {
        this.setShift(0);
        this.load(Number(this.$root.dataset.chosen));
        own.turnOver = window.skAlternate(500, () => this.$refs.way.value === "turn", () => { own.showsRight = !own.showsRight; this.draw(); });
        document.addEventListener("keydown", (event) => {
          if (!event.target.closest("input, textarea, select, canvas")) this.key(event);
        });
        document.body.addEventListener("htmx:afterSwap", () => this.follow());
      },
      setWay() { this.draw(); this.tellGhosts(); },
      setSide(event) { this.goSide(event.currentTarget.dataset.side); },
      goSide(side) {
        this.side = side;
        this.$root.querySelectorAll("[data-side]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.side === side));
        this.load(this.index);
      },
      // Viewers get what the file states; asked to, the other way round is shown, and said to be.
      exchange() { this.exchanged = !this.exchanged; this.load(this.index); },
      cells(side) {
        const { left, right } = this.sides[side];
        return this.exchanged ? [right, left] : [left, right];
      },
      order(side) {
        const { stereo, said } = this.sides[side];
        if (!stereo) return "";
        return this.exchanged ? `Eyes exchanged: viewers get them the other way round (${stereo})` : said === "the file" ? "" : `Not flagged: by its picture ${stereo}; players show both views at once`;
      },
      toggleMarks() { this.marks = !this.marks; this.draw(); },
      choose(event) { this.load(event.detail.index); },
      load(index) {
        this.index = Math.max(0, Math.min(index, this.rows.length - 1));
        this.$dispatch("shown", { index: this.index });
        if (own.loading) { own.waiting = true; return; }
        own.loading = true;
        own.waiting = false;
        const side = this.side, frame = this.rows[this.index][side === "master" ? 0 : 1], display = this.$root.dataset.display;
        this.words = `master ${this.rows[this.index][0]} · export ${this.rows[this.index][1]}`;
        this.told = "drawing…";
        this.fetch(`still/${side}/${frame}/${display}.png`, `frame ${frame} of the ${side}`).then((picture) => {
          this.take(picture, side);
          this.draw();
          this.tellGhosts();
          const { left, right } = this.sides[side], stereo = this.sides[side][this.exchanged ? "exchanged" : "stereo"];
          if (!stereo || left.join() === right.join()) return null;
          return this.fetch(`depth/${side}/${frame}/${stereo}.png`, "its parallax").then((depth) => { if (!own.waiting) this.takeDepth(depth); });
        }).catch((error) => { this.told = error.message; }).finally(() => {
          own.loading = false;
          if (own.waiting || side !== this.side) this.load(this.index);
        });
      },
      fetch(path, name) { return window.skPicture(this.$root.dataset.base + path, name); },
      take(picture, side) {
        const { width, height } = this.$refs.canvas, { shape } = this.sides[side];
        own.width = Math.min(width, Math.round(height * shape));
        own.height = Math.min(height, Math.round(own.width / shape));
        own.light = this.cells(side).map((cell) => window.skGlasses.linear(picture, cell, own.width, own.height));
        own.depth = null;
      },
      takeDepth(depth) {
        const canvas = document.createElement("canvas");
        Object.assign(canvas, { width: own.width, height: own.height });
        const pen = canvas.getContext("2d", { willReadFrequently: true });
        pen.imageSmoothingEnabled = false;
        pen.drawImage(depth, 0, 0, own.width, own.height);
        const codes = pen.getImageData(0, 0, own.width, own.height).data;
        own.depth = new Uint8Array(own.width * own.height).map((_, at) => codes[4 * at]);
        this.draw();
      },
      slide(event) { this.setShift(Number(event.currentTarget.value)); },
      setShift(shift) {
        this.shift = Math.max(-5, Math.min(Math.round(shift * 20) / 20, 5));
        this.$refs.shift.value = this.shift;
        this.$refs.kept.value = (this.shift + this.base()).toFixed(3);
        this.shiftWords = `${this.shift >= 0 ? "+" : ""}${this.shift.toFixed(2)} % of width`;
        if (own.due) return;
        own.due = true;
        requestAnimationFrame(() => { own.due = false; this.draw(); this.follow(); });
        clearTimeout(own.later);
        own.later = setTimeout(() => this.tellGhosts(), 250);
      },
      // What is promised is told against the master: a slid export is off by what it is shifted already.
      base() { return this.side === "export" ? Number(this.$root.dataset.off || 0) : 0; },
      pair() { return this.glasses.find((one) => one.name === this.$refs.way.value); },
      draw() {
        const canvas = this.$refs.canvas;
        if (!own.light) return;
        const started = performance.now(), pen = canvas.getContext("2d"), styles = getComputedStyle(document.documentElement);
        const { width, height } = own, [left, right] = own.light, way = this.$refs.way.value, pair = this.pair();
        const picture = own.picture && own.picture.width === width ? own.picture : (own.picture = pen.createImageData(width, height));
        const by = Math.round((this.shift / 100) * width), glass = window.skGlasses;
        pen.fillStyle = styles.getPropertyValue("--sk-surround");
        pen.fillRect(0, 0, canvas.width, canvas.height);
        const x = Math.round((canvas.width - width) / 2), y = Math.round((canvas.height - height) / 2);
        if (way === "beside") {
          const half = document.createElement("canvas");
          Object.assign(half, { width, height });
          [false, true].forEach((isRight) => {
            glass.each(left, right, width, height, by, picture.data, glass.alone(isRight));
            half.getContext("2d").putImageData(picture, 0, 0);
            const wide = canvas.width / 2 - 2, high = (wide * height) / width;
            pen.drawImage(half, isRight ? wide + 4 : 0, (canvas.height - high) / 2, wide, high);
          });
        } else {
          if (pair) glass.blend(left, right, width, height, by, picture.data, pair);
          else glass.each(left, right, width, height, by, picture.data, way === "turn" ? glass.alone(own.showsRight) : glass.differ);
          if (this.marks && own.depth) this.mark(picture.data);
          pen.putImageData(picture, x, y);
        }
        own.time = performance.now() - started;
        this.tell();
      },
      limits() { return document.getElementById("parallax").dataset.limits.split(" ").map(Number); },
      // Hatches what stands in front of the screen; what is beyond parallel eyes closely.
      mark(data) {
        const { width, depth } = own, far = this.limits()[2];
        const inks = new Uint32Array(data.buffer), here = MIDDLE - this.shift * STEPS;
        const near = here - 0.05 * STEPS, beyond = here + far * STEPS, rows = depth.length / width;
        let front = 0, past = 0, known = 0, at = 0;
        for (let row = 0; row < rows; row++) {
          for (let column = 0; column < width; column++, at++) {
            const code = depth[at];
            if (code === UNKNOWN) continue;
            known++;
            if (code < near) {
              front++;
              if ((row + column) % 9 === 0) inks[at] = FRONT;
            } else if (code > beyond) {
              past++;
              if ((row + column) % 4 < 2) inks[at] = BEYOND;
            }
          }
        }
        Object.assign(own, { front, beyond: past, known });
      },
      tell() {
        const share = (count) => `${((100 * count) / Math.max(own.known, 1)).toFixed(0)} %`;
        const marked = own.depth && own.known ? ` · ${share(own.front)} in front of the screen${own.beyond ? `, ${share(own.beyond)} beyond parallel eyes` : ""}` : "";
        this.told = `${this.side}, drawn in ${own.time.toFixed(0)} ms${this.marks ? marked : ""}`;
      },
      tellGhosts() {
        const pair = this.pair();
        if (!own.light || !pair) { this.ghosts = ""; return; }
        const by = Math.round((this.shift / 100) * own.width), { width, height } = own;
        const [made, plain] = [[pair.left, pair.right], pair.plain].map((matrices) => window.skGlasses.ghosting(own.light[0], own.light[1], width, height, by, pair, matrices));
        const words = (shares) => shares.map((share) => `${(100 * share).toFixed(1)} %`).join(" and ");
        this.ghosts = `Ghosting, left and right eye: ${words(made)} of its light; by plain channels ${words(plain)}`;
      },
      // The drawing's curve of the export goes along with the eyes.
      follow() {
        for (const group of document.querySelectorAll("#parallax [data-scale]")) {
          group.setAttribute("transform", `translate(${(Number(group.dataset.scale) * this.shift).toFixed(2)} 0)`);
        }
        this.draw();
      },
      grab(event) { own.turnOver(); event.target.setPointerCapture(event.pointerId); own.held = { x: event.clientX, shift: this.shift }; },
      drag(event) {
        const { held } = own;
        if (held) this.setShift(held.shift + ((event.clientX - held.x) / this.$refs.canvas.getBoundingClientRect().width) * 20);
      },
      release() { own.held = null; },
      key(event) {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const step = event.shiftKey ? 0.5 : 0.05, way = this.$refs.way;
        const deeds = {
          ArrowLeft: () => this.setShift(this.shift - step), ArrowRight: () => this.setShift(this.shift + step), 0: () => this.setShift(0),
          g: () => { way.selectedIndex = (way.selectedIndex + 1) % way.options.length; this.setWay(); },
          f: () => this.goSide(this.side === "export" ? "master" : "export"), m: () => this.toggleMarks(), x: () => this.exchange(),
          ",": () => this.load(this.index - 1), ".": () => this.load(this.index + 1),
        };
        if (deeds[event.key]) { deeds[event.key](); event.preventDefault(); }
      },
    };
  });
});
