// Look: draws master and export of one moment on a canvas, wiped or side by side.
// Needs: data-base (address of stills), data-chosen, data-eyes, data-shape; buttons in .sk-strip.
document.addEventListener("alpine:init", function () {
  Alpine.data("look", function () {
    return {
      wipe: true,
      eyes: "plain",
      index: 0,
      line: 0.5,
      held: false,
      words: "",
      pictures: { master: null, export: null },
      init() {
        const data = this.$root.dataset;
        this.eyes = data.eyes;
        this.line = 0.5;
        this.load(Number(data.chosen));
        document.addEventListener("keydown", (event) => {
          if (!event.target.closest("input, textarea, canvas")) this.key(event);
        });
      },
      get isWipe() { return this.wipe; },
      get isBeside() { return !this.wipe; },
      get isPlain() { return this.eyes === "plain"; },
      get isToned() { return this.eyes === "toned"; },
      setWipe() { this.wipe = true; this.draw(); },
      setBeside() { this.wipe = false; this.draw(); },
      setPlain() { this.eyes = "plain"; this.load(this.index); },
      setToned() { this.eyes = "toned"; this.load(this.index); },
      buttons() { return [...this.$root.querySelectorAll(".sk-strip button")]; },
      choose(event) { this.load(Number(event.currentTarget.dataset.index)); },
      load(index) {
        const buttons = this.buttons();
        this.index = Math.max(0, Math.min(index, buttons.length - 1));
        const chosen = buttons[this.index];
        buttons.forEach((button) => button.setAttribute("aria-current", button === chosen));
        this.say("drawing…");
        const asked = `${this.index} ${this.eyes}`;
        const wanted = ["master", "export"].map((side) => this.fetch(side, chosen.dataset[side]));
        Promise.all(wanted).then(([master, other]) => {
          if (asked !== `${this.index} ${this.eyes}`) return;
          this.pictures = { master, export: other };
          this.draw();
          const ssim = chosen.dataset.ssim;
          this.say(ssim ? `SSIM ${Number(ssim).toFixed(4)}` : "");
        }).catch((error) => this.say(error.message));
      },
      say(more) {
        const chosen = this.buttons()[this.index].dataset;
        this.words = `master ${chosen.master} · export ${chosen.export}${more ? " · " + more : ""}`;
      },
      fetch(side, frame) {
        return new Promise((resolve, reject) => {
          const picture = new Image();
          picture.onload = () => resolve(picture);
          picture.onerror = () => reject(new Error(`frame ${frame} of the ${side} could not be drawn`));
          picture.src = `${this.$root.dataset.base}${side}/${frame}/${this.eyes}.png`;
        });
      },
      place(picture, left, width, height) {
        // Both are drawn to one height of picture, so that each file's own shape shows.
        const widest = Math.max(Number(this.$root.dataset.shape), this.ratio("master"), this.ratio("export"));
        const high = Math.min(height, width / widest);
        const wide = (high * picture.naturalWidth) / picture.naturalHeight;
        return { x: left + (width - wide) / 2, y: (height - high) / 2, w: wide, h: high };
      },
      ratio(side) {
        const picture = this.pictures[side];
        return picture ? picture.naturalWidth / picture.naturalHeight : 1;
      },
      draw() {
        const canvas = this.$refs.canvas;
        const pen = canvas.getContext("2d");
        const styles = getComputedStyle(document.documentElement);
        const { master, export: other } = this.pictures;
        const { width, height } = canvas;
        pen.fillStyle = styles.getPropertyValue("--sk-surround");
        pen.fillRect(0, 0, width, height);
        if (!master || !other) return;
        if (!this.wipe) {
          [[master, 0, "master"], [other, width / 2 + 2, "export"]].forEach(([picture, left, name]) => {
            const box = this.place(picture, left, width / 2 - 4, height);
            pen.drawImage(picture, box.x, box.y, box.w, box.h);
            this.label(pen, styles, name, box.x + 8, box.y + 20);
          });
          return;
        }
        const at = Math.round(this.line * width);
        [[master, 0, at], [other, at, width - at]].forEach(([picture, left, wide]) => {
          const box = this.place(picture, 0, width, height);
          pen.save();
          pen.beginPath();
          pen.rect(left, 0, wide, height);
          pen.clip();
          pen.drawImage(picture, box.x, box.y, box.w, box.h);
          pen.restore();
        });
        pen.fillStyle = styles.getPropertyValue("--sk-accent");
        pen.fillRect(at - 1, 0, 2, height);
        this.label(pen, styles, "master", at - 60, height - 12);
        this.label(pen, styles, "export", at + 12, height - 12);
      },
      label(pen, styles, text, x, y) {
        pen.font = '13px "Plex Mono", monospace';
        const wide = pen.measureText(text).width;
        pen.fillStyle = styles.getPropertyValue("--sk-page");
        pen.fillRect(x - 4, y - 13, wide + 8, 18);
        pen.fillStyle = styles.getPropertyValue("--sk-text");
        pen.fillText(text, x, y);
      },
      moveTo(event) {
        const box = this.$refs.canvas.getBoundingClientRect();
        this.line = Math.max(0, Math.min((event.clientX - box.left) / box.width, 1));
        this.draw();
      },
      grab(event) { this.held = true; event.target.setPointerCapture(event.pointerId); this.moveTo(event); },
      drag(event) { if (this.held) this.moveTo(event); },
      release() { this.held = false; },
      key(event) {
        const step = event.shiftKey ? 0.1 : 0.02;
        const deeds = {
          ArrowLeft: () => { this.line = Math.max(this.line - step, 0); this.draw(); },
          ArrowRight: () => { this.line = Math.min(this.line + step, 1); this.draw(); },
          ",": () => this.load(this.index - 1),
          ".": () => this.load(this.index + 1),
          b: () => { this.wipe = !this.wipe; this.draw(); },
          e: () => { if (this.$root.querySelectorAll("fieldset").length > 1) { this.isPlain ? this.setToned() : this.setPlain(); } },
        };
        if (deeds[event.key] && !event.ctrlKey && !event.metaKey) {
          deeds[event.key]();
          event.preventDefault();
        }
      },
    };
  });
});
