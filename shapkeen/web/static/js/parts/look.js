// Look: draws master and export of one moment on a canvas, and reads both under the probe.
// Needs: data-base, data-chosen, data-shape, data-unit; rows of moments in #moments; refs canvas,
// eyes, probed. Needs: roomy.js, player.js. Hears "moment" with {index} of a row; says "shown" with it.
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
    gamma22: "A player that takes 2.2 for 2.4 shows mid-tones lighter.",
    gamma196: "A player that takes 1.96 for 2.4 shows mid-tones lighter.",
  };
  const MOST_ZOOM = 32;
  Alpine.data("look", function () {
    return {
      ...window.skLookDrawing(), ...window.skRemarks.mixin(),
      way: "wipe", index: 0, line: 0.5, words: "", note: "", probing: false, stored: false, over: "nothing",
      zoom: 1, centre: { x: 0.5, y: 0.5 }, spot: { x: 0.5, y: 0.5, w: 0, h: 0 },
      held: null, showsExport: false, playing: false, large: false, film: null, pictures: { master: null, export: null, difference: null },
      rows: JSON.parse(document.getElementById("moments").textContent), worst: 0,
      areas: JSON.parse(document.getElementById("areas").textContent),
      init() {
        this.room = window.skRoomy({ root: this.$root, canvas: this.$refs.canvas, below: () => (this.probing ? [194, 176] : this.remarking ? [152, 132] : [112, 92]), draw: () => this.draw() });
        this.room.resize();
        this.player = this.makePlayer();
        this.timecode = window.skTimecode(JSON.parse(this.$root.dataset.timecode));
        this.recall();
        const place = this.$root.querySelector(".sk-goto"); // within the strip, whose root is another
        place.addEventListener("keydown", (event) => { if (event.key === "Enter") this.goTo(event); });
        place.addEventListener("input", () => place.setCustomValidity(""));
        this.load(Number(this.$root.dataset.chosen));
        this.tellNote();
        document.addEventListener("htmx:afterSettle", () => this.draw());
        setInterval(() => this.blink(), 700);
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
      // Both play in step, from proxies that the server makes piece after piece: the master above in every picture.
      makePlayer() {
        const { step, rate, last } = this.$root.dataset;
        return window.skPlayer.make({
          address: (frame) => `${this.$root.dataset.base}proxy/${frame}/${this.display}.mp4`, step: Number(step), rate: Number(rate), last: Number(last),
          show: (film, frame) => { this.film = film; this.follow(frame); },
          end: (error) => { this.stop(); if (error) this.say(error.message); },
        });
      },
      togglePlay() {
        if (this.playing) { this.stop(); return; }
        this.playing = true;
        this.say("making the proxy…");
        this.player.play(this.chosen().export);
      },
      follow(frame) {
        const next = this.rows.findIndex((row) => row[1] >= frame);
        this.index = next < 0 ? this.rows.length - 1 : next;
        this.$dispatch("shown", { index: this.index });
        this.say("playing");
        this.draw();
      },
      stop() {
        if (!this.playing) return;
        this.playing = false;
        this.film = null;
        this.player.stop();
        this.load(this.index);
      },
      toggleProbe() { this.probing = !this.probing; if (this.probing) this.ask(); else this.$refs.probed.replaceChildren(); this.room.resize(); },
      blink() { if (this.way === "alternate" && !this.held) { this.showsExport = !this.showsExport; this.draw(); } },
      chosen() {
        const [master, other, ssim, psnr, seen, worst] = this.rows[this.index];
        return { master, export: other, ssim, psnr, seen, worst };
      },
      choose(event) { this.stop(); this.load(event.detail.index); },
      nextWorst() {
        const buttons = [...this.$root.querySelectorAll(".sk-worst button")];
        if (buttons.length) this.load(Number(buttons[this.worst++ % buttons.length].dataset.index));
      },
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
          if (this.probing) this.ask();
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
      // Past the size of a page's still, every sample is wanted.
      sharpen() {
        const asked = `${this.index} ${this.display}`;
        Promise.all(["master", "export"].map((side) => this.still(side, true))).then(([master, other]) => {
          if (asked !== `${this.index} ${this.display}`) return;
          Object.assign(this.pictures, { master, export: other, whole: true });
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
      // The address holds moment, layout, display, size and place, so that it can be sent.
      remember() {
        const told = new URLSearchParams({ frame: this.chosen().export });
        if (this.way !== "wipe") told.set("way", this.way);
        if (this.$refs.display.selectedIndex) told.set("display", this.display);
        if (this.zoom > 1) Object.entries({ zoom: this.zoom, x: this.centre.x, y: this.centre.y }).forEach(([k, v]) => told.set(k, v.toFixed(3)));
        history.replaceState(history.state, "", `?${told}`);
      },
      recall() {
        const told = new URLSearchParams(location.search), share = (name) => Math.max(0, Math.min(Number(told.get(name)) || 0, 1));
        if ([...this.$refs.display.options].some((one) => one.value === told.get("display"))) { this.$refs.display.value = told.get("display"); this.tellNote(); }
        if (WAYS.includes(told.get("way"))) this.go(told.get("way"));
        const zoom = Number(told.get("zoom"));
        if (zoom > 1) Object.assign(this, { zoom: Math.min(zoom, MOST_ZOOM), centre: { x: share("x"), y: share("y") } });
      },
      goTo(event) {
        const frame = this.timecode.frameOf(event.target.value), last = this.rows[this.rows.length - 1][1];
        const bad = frame === null || frame < 0 || frame > last;
        event.target.setCustomValidity(bad ? `A timecode from ${this.timecode.at(0)} to ${this.timecode.at(last)}, or a frame from 0 to ${last}.` : "");
        if (!event.target.reportValidity()) return;
        const next = this.rows.findIndex((row) => row[1] >= frame);
        this.stop();
        this.load(next);
        event.target.blur();
      },
      // A picture's shape: as its file states it, or as a player shows it that ignores pixel aspects.
      shapeOf(picture) {
        const aspects = this.$root.dataset.aspects.split(" ").map(Number);
        const aspect = this.stored ? aspects[picture === this.pictures.master ? 0 : 1] : 1;
        return picture.naturalWidth / picture.naturalHeight / aspect;
      },
      toggleStored() { this.stored = !this.stored; this.draw(); },
      setOver(event) { this.over = event.currentTarget.value; this.draw(); },
      nextOver() {
        const select = this.$refs.over;
        select.selectedIndex = (select.selectedIndex + 1) % select.options.length;
        this.over = select.value;
        this.draw();
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
      // Where the whole master lies in the export, as fractions; places are the master's throughout.
      get rect() { return this.$root.dataset.rect.split(" ").map(Number); },
      isExport(point) {
        if (this.way === "beside") return point.x > this.$refs.canvas.width / 2;
        if (this.way === "wipe") return point.x > this.line * this.$refs.canvas.width;
        return this.way === "difference" || this.showsExport;
      },
      // The place in the master under a point of the canvas, as fractions.
      inPicture(point) {
        const { width, height } = this.$refs.canvas, half = width / 2 - 2, right = this.isExport(point);
        const [left, wide] = this.way === "beside" ? [right ? half + 4 : 0, half] : [0, width];
        const box = this.place(this.pictures[right ? "export" : "master"], left, wide, height);
        const cut = (value) => Math.max(0, Math.min(value, 0.99999));
        const [x, y, w, h] = right ? this.rect : [0, 0, 1, 1];
        return { x: cut(((point.x - box.x) / box.w - x) / w), y: cut(((point.y - box.y) / box.h - y) / h) };
      },
      grab(event) {
        if (!this.pictures.master) return;
        event.target.setPointerCapture(event.pointerId);
        const point = this.at(event);
        if (this.remarking && !event.shiftKey) { this.remarkAt(point); return; }
        this.held = { point, from: this.inPicture(point), pans: event.shiftKey || event.button === 1 };
        this.drag(event);
      },
      drag(event) {
        if (!this.pictures.master) return;
        const point = this.at(event);
        if (this.held && this.held.pans) {
          const box = this.place(this.pictures.master, 0, this.$refs.canvas.width, this.$refs.canvas.height);
          this.pan((this.held.point.x - point.x) / box.w, (this.held.point.y - point.y) / box.h);
          this.held.point = point;
        } else if (this.probing) {
          const to = this.inPicture(point), from = this.held ? this.held.from : to;
          const far = this.held && Math.hypot(point.x - this.held.point.x, point.y - this.held.point.y) > 4;
          if (!this.held && this.spot.w) return; // an area stays until another place is pressed
          this.spot = { x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), w: far ? Math.abs(to.x - from.x) : 0, h: far ? Math.abs(to.y - from.y) : 0 };
          this.ask();
          this.draw();
        } else if (this.held && this.way === "wipe") {
          this.line = Math.max(0, Math.min(point.x / this.$refs.canvas.width, 1));
          this.draw();
        }
      },
      release() { this.held = null; },
      wheel(event) { event.preventDefault(); this.resize(event.deltaY < 0 ? 1.25 : 0.8); },
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
      // One question at a time; the last place asked for meanwhile comes next.
      ask() {
        if (this.asking) { this.again = true; return; }
        this.asking = true;
        if (!this.$refs.probed.childElementCount) this.$refs.probed.textContent = "reading…";
        const { master, export: other } = this.chosen(), { x, y, w, h } = this.spot;
        fetch(`${this.$root.dataset.base}probe/${master}/${other}/?x=${x}&y=${y}&w=${w}&h=${h}`)
          .then((answer) => answer.text())
          .then((html) => { if (this.probing) this.$refs.probed.innerHTML = html; })
          .catch(() => { this.again = true; return window.skConnection.returned(); })
          .finally(() => { this.asking = false; if (this.again) { this.again = false; this.ask(); } });
      },
      step(dx, dy, large) {
        if (this.probing) {
          const box = this.place(this.pictures.export, 0, this.$refs.canvas.width, this.$refs.canvas.height);
          const size = (large ? 24 : 2) / box.w, cut = (v) => Math.max(0, Math.min(v, 0.99999));
          Object.assign(this.spot, { x: cut(this.spot.x + dx * size), y: cut(this.spot.y + (dy * size * box.w) / box.h) });
          this.ask();
        } else if (dx) this.line = Math.max(0, Math.min(this.line + dx * (large ? 0.1 : 0.02), 1));
        this.draw();
      },
      stepFrame(by) { this.stop(); this.load(this.index + by); },
      // The area round the probe's place, by keys: shrinks to a single sample.
      widen(by) {
        if (!this.probing) return;
        const w = Math.max(0, Math.min(this.spot.w + by, 1 - this.spot.x));
        Object.assign(this.spot, { w, h: w && Math.min(w, 1 - this.spot.y) });
        this.ask();
        this.draw();
      },
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
          ",": () => this.stepFrame(-1), ".": () => this.stepFrame(1), n: () => this.nextWorst(),
          " ": () => this.togglePlay(), r: () => this.togglePlay(), v: () => this.toggleLarge(), Escape: () => { if (this.large) this.toggleLarge(); },
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
    };
  });
});
