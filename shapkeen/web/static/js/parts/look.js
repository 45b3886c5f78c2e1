// @ts-check
// Look: master and export of one moment on a canvas: what is shown of it, and which key does what.
// Needs: data-base, data-chosen, data-shape, data-unit; rows of moments in #moments; refs canvas, display, over; the parts in
// look/; roomy.js, timecode.js. Hears "moment" with {index} of a row; says "shown" with it, and "stretch" with {rows}.
document.addEventListener("alpine:init", function () {
  const WAYS = ["wipe", "beside", "alternate", "difference"];
  const NOTES = {
    toned: "Tone-mapped: highlights rolled off to this screen's white at 203 cd/m², colours brought to BT.709.",
    plain: "If this looks flat and milky, that is a fault of viewing, not of the file.",
    peak600: "Everything above 600 cd/m² is cut, as a screen of that peak does.",
    peak300: "Everything above 300 cd/m² is cut, as a screen of that peak does.",
    steps: "Each grey is a step of light, every second one hatched: from 0.1, 1, 10, 50, 100, 203, 400, 600, 1000, 4000 cd/m².",
    outside709: "In colour: what lies outside BT.709. All else is grey.",
    outsidep3: "In colour: what lies outside P3. All else is grey.",
    abovepeak: "In colour: what is brighter than the mastering display's peak (1000 cd/m² where none is declared). All else is grey.",
    belowblack: "Hatched: what lies below black. All else is grey.",
    gamma22: "A player that takes 2.2 for 2.4 shows mid-tones lighter.",
    gamma196: "A player that takes 1.96 for 2.4 shows mid-tones lighter.",
  };
  Alpine.data("look", function () {
    return /** @type {LookPart} */ ({
      ...window.skLook.drawing(), ...window.skLook.place(), ...window.skLook.probing(), ...window.skLook.playing(), ...window.skLook.address(),
      ...window.skRemarks.mixin(),
      WAYS, way: "wipe", index: 0, words: "", note: "", stored: false, over: "nothing",
      showsExport: false, large: false, pictures: { master: null, export: null, difference: null },
      rows: JSON.parse(document.getElementById("moments").textContent), worst: 0,
      areas: JSON.parse(document.getElementById("areas").textContent),
      init() {
        this.room = window.skRoomy({ root: this.$root, canvas: this.$refs.canvas, below: () => (this.probing ? [222, 204] : this.remarking ? [180, 160] : [140, 120]), draw: () => this.draw() });
        this.room.resize();
        this.player = this.makePlayer();
        this.timecode = window.skTimecode(JSON.parse(this.$root.dataset.timecode));
        this.prepareProbe();
        this.recall();
        const place = this.$root.querySelector(".sk-goto"); // within the strip, whose root is another
        place.addEventListener("keydown", (event) => { if (event.key === "Enter") this.goTo(event); });
        place.addEventListener("input", () => place.setCustomValidity(""));
        this.$root.querySelectorAll("[data-deed]").forEach((button) => button.addEventListener("click", () => this[button.dataset.deed]()));
        ["pointerenter", "focus"].forEach((kind) => this.$root.querySelector("[data-deed=togglePlay]").addEventListener(kind, () => this.ready()));
        this.load(Number(this.$root.dataset.chosen));
        this.tellNote();
        document.addEventListener("htmx:afterSettle", () => this.draw());
        this.turnOver = window.skAlternate(700, () => this.way === "alternate" && !this.held, () => { this.showsExport = !this.showsExport; this.draw(); });
        document.addEventListener("keydown", (event) => {
          if (!event.target.closest("input, textarea, select, dialog, .sk-canvas") && !document.querySelector("dialog[open]")) this.key(event);
        });
      },
      get display() { return this.$refs.display.value; },
      tellNote() { this.note = this.display === "plain" && this.$root.dataset.unit !== "ΔE ITP" ? "" : NOTES[this.display]; },
      setWay(event) { this.go(event.currentTarget.dataset.way); },
      go(way) {
        this.way = way;
        this.$root.querySelectorAll("[data-way]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.way === way));
        if (way === "difference" && this.pictures.master && !this.pictures.difference) this.loadDifference();
        if (this.pictures.master) this.remember();
        this.draw();
      },
      setDisplay() { this.stop(); this.tellNote(); this.load(this.index); },
      toggleLarge() { this.large = this.room.toggle(); },
      chosen() {
        const [master, other, ssim, psnr, seen, worst] = this.rows[this.index];
        return { master, export: other, ssim, psnr, seen, worst };
      },
      rowOf(frame) {
        const next = this.rows.findIndex((row) => row[1] >= frame);
        return next < 0 ? this.rows.length - 1 : next;
      },
      choose(event) { this.stop(); this.load(event.detail.index); },
      // One moment at a time: while one is drawn, only the last one asked for meanwhile waits.
      load(index) {
        this.index = Math.max(0, Math.min(index, this.rows.length - 1));
        if (this.remarking) { this.remarkSpot = null; this.putRemark(); }
        this.$dispatch("shown", { index: this.index });
        this.say("drawing…");
        if (this.loading) { this.waiting = true; return; }
        this.loading = true;
        this.waiting = false;
        const asked = `${this.index} ${this.display}`;
        Promise.all(["master", "export"].map((side) => this.still(side))).then(([master, other]) => {
          if (asked !== `${this.index} ${this.display}`) return;
          this.pictures = { master, export: other, difference: null };
          if (this.way === "difference") this.loadDifference();
          if (this.zoom > 1) this.sharpen();
          this.ask();
          this.tell();
          this.remember();
          this.draw();
        }).catch((error) => this.say(error.message)).finally(() => {
          this.loading = false;
          if (this.waiting || asked !== `${this.index} ${this.display}`) this.load(this.index);
        });
      },
      still(side, whole) {
        const frame = this.chosen()[side];
        return this.fetch(`still/${side}/${frame}/${this.display}.png${whole ? "?whole" : ""}`, `frame ${frame} of the ${side}`);
      },
      loadDifference() {
        const asked = this.index, { master, export: other } = this.chosen();
        this.say("comparing…");
        this.fetch(`difference/${master}/${other}.png`, "the difference").then((picture) => {
          if (asked !== this.index) return;
          this.pictures.difference = picture;
          this.tell();
          this.draw();
        }).catch((error) => this.say(error.message));
      },
      fetch(path, name) { return window.skPicture(this.$root.dataset.base + path, name); },
      tell() {
        const { ssim, psnr, seen, worst } = this.chosen(), unit = this.$root.dataset.unit;
        const told = [ssim && `SSIM ${Number(ssim).toFixed(4)}`, psnr && `PSNR ${Number(psnr).toFixed(1)} dB`,
          seen && `${unit} ${Number(seen).toFixed(2)}, worst place ${Number(worst || 0).toFixed(1)}`];
        this.say(told.filter(Boolean).join(" · "));
      },
      say(more) {
        const { master, export: other } = this.chosen();
        this.words = `${this.timecode.at(other)} · master ${master} · export ${other}${more ? " · " + more : ""}`;
      },
      toggleStored() { this.stored = !this.stored; this.draw(); },
      setOver(event) { this.over = event.currentTarget.value; this.draw(); },
      nextOver() {
        const select = this.$refs.over;
        select.selectedIndex = (select.selectedIndex + 1) % select.options.length;
        this.over = select.value;
        this.draw();
      },
      // Where the whole master lies in the export, as fractions; places are the master's throughout.
      get rect() { return this.$root.dataset.rect.split(" ").map(Number); },
      nextEyes() {
        const select = this.$refs.display;
        select.selectedIndex = (select.selectedIndex + 1) % select.options.length;
        this.setDisplay();
      },
      key(event) {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const large = event.shiftKey, move = 0.1 / this.zoom;
        const deeds = {
          ArrowLeft: () => this.step(-1, 0, large), ArrowRight: () => this.step(1, 0, large),
          ArrowUp: () => this.step(0, -1, large), ArrowDown: () => this.step(0, 1, large),
          z: () => this.moveLine(-0.02), c: () => this.moveLine(0.02), Z: () => this.moveLine(-0.1), C: () => this.moveLine(0.1),
          ",": () => this.stepFrame(-1), ".": () => this.stepFrame(1), n: () => this.nextWorst(),
          " ": () => this.togglePlay(), j: () => this.hasten(-1), k: () => this.stop(), l: () => this.hasten(1),
          "(": () => this.markFrom(), ")": () => this.markTo(), x: () => this.clearStretch(), t: () => this.toggleScopes(), v: () => this.toggleLarge(), Escape: () => { if (this.large) this.toggleLarge(); },
          b: () => this.go(WAYS[(WAYS.indexOf(this.way) + 1) % WAYS.length]),
          e: () => this.nextEyes(), p: () => this.toggleProbe(),
          m: () => this.toggleRemark(), g: () => { const field = this.$root.querySelector(".sk-goto"); field.focus(); field.select(); }, o: () => this.nextOver(), i: () => this.toggleStored(),
          "]": () => this.widen(0.02 / this.zoom), "[": () => this.widen(-0.02 / this.zoom),
          "+": () => this.resize(1.25), "=": () => this.resize(1.25), "-": () => this.resize(0.8),
          0: () => this.fit(), 1: () => this.oneToOne(),
          w: () => this.pan(0, -move), s: () => this.pan(0, move), a: () => this.pan(-move, 0), d: () => this.pan(move, 0),
        };
        if (deeds[event.key] && this.pictures.master) {
          deeds[event.key]();
          event.preventDefault();
        }
      },
    });
  });
});
