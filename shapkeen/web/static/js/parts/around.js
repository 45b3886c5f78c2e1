// @ts-check
// Around: both spheres from inside, turning together; marks, play (player.js), and the flat picture beside it.
// Needs: data-base, data-chosen, data-display, data-step, data-rate, data-last; rows in #moments; both files in
// #sides; refs canvas, flat. Hears "moment" with {index} of a row; says "shown" with it. ?plain: without WebGL.
document.addEventListener("alpine:init", function () {
  const WAYS = ["beside", "wipe", "alternate"], SIDES = ["master", "export"];
  const LEAST_VIEW = 20, MOST_VIEW = 120, TURN = 3, REST_MS = 160, SLOW_MS = 25;
  Alpine.data("around", function () {
    // Not for Alpine to watch: pictures, textures and pointers.
    const own = { pictures: {}, pointers: new Map(), times: [], halves: null };
    return /** @type {AroundPart} */ ({
      ...window.skAround.marks(),
      way: "beside", line: 0.5, index: 0, marks: true, playing: false, showsExport: true,
      yaw: 0, pitch: 0, fov: 90, view: "", gets: "", drawn: "", words: "",
      rows: JSON.parse(document.getElementById("moments").textContent),
      sides: JSON.parse(document.getElementById("sides").textContent),
      init() {
        own.sphere = window.skSphere.make(new URLSearchParams(location.search).has("plain"));
        const { base, display, step, rate, last } = this.$root.dataset;
        own.player = window.skPlayer.make({
          address: (frame) => `${base}proxy/${frame}/${display}.mp4`, step: Number(step), rate: Number(rate), last: Number(last),
          show: (video, frame) => this.showPlayed(video, frame),
          end: (error) => { this.playing = false; this.load(this.index); if (error) own.fault = error.message; },
        });
        this.home();
        this.load(Number(this.$root.dataset.chosen));
        this.turnOver = window.skAlternate(900, () => this.way === "alternate" && !own.pointers.size, () => { this.showsExport = !this.showsExport; this.draw(); });
        document.addEventListener("keydown", (event) => {
          if (!event.target.closest("input, textarea, select, canvas")) this.key(event);
        });
      },
      setWay(event) { this.go(event.currentTarget.dataset.way); },
      go(way) {
        this.way = way;
        this.$root.querySelectorAll("[data-way]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.way === way));
        this.draw();
      },
      toggleMarks() { this.marks = !this.marks; this.draw(); },
      home() { [this.yaw, this.pitch] = this.sides.export.ahead; this.fov = 90; this.draw(); },
      behind() { this.yaw = 180; this.pitch = 0; this.draw(); },
      choose(event) { this.stop(); this.load(event.detail.index); },
      load(index) {
        this.index = Math.max(0, Math.min(index, this.rows.length - 1));
        this.$dispatch("shown", { index: this.index });
        own.fault = null;
        if (own.loading) { own.waiting = true; return; }
        own.loading = true;
        own.waiting = false;
        const asked = this.index, display = this.$root.dataset.display, [master, other] = this.rows[asked];
        this.words = `master ${master} · export ${other}`;
        this.drawn = "drawing…";
        Promise.all([["master", master], ["export", other]].map(([side, frame]) =>
          this.fetch(`still/${side}/${frame}/${display}.png`, `frame ${frame} of the ${side}`))).then((found) => {
          if (this.playing) return;
          SIDES.forEach((side, at) => { own.pictures[side] = found[at]; });
          this.uploadAll();
          own.halves = null;
          this.drawn = own.fault || "";
          this.draw();
        }).catch((error) => { this.drawn = error.message; }).finally(() => {
          own.loading = false;
          if (own.waiting) this.load(this.index);
        });
      },
      fetch(path, name) { return window.skPicture(this.$root.dataset.base + path, name); },
      parts() {
        const { width, height } = this.$refs.canvas, at = Math.round(this.line * width), half = width / 2 - 2;
        if (this.way === "beside") return [["master", 0, half, 0, half], ["export", half + 4, half, half + 4, half]].map((p) => [...p, height]);
        if (this.way === "alternate") return [[this.showsExport ? "export" : "master", 0, width, 0, width, height]];
        return [["master", 0, width, 0, at, height], ["export", 0, width, at, width - at, height]];
      },
      looking(side) { return { yaw: this.yaw, pitch: this.pitch, fov: this.fov, degrees: this.sides[side].degrees }; },
      // The part of what was uploaded that holds one eye of a file: of its own picture, or of the proxy.
      cellOf(side) {
        const [x, y, w, h] = this.sides[side].left;
        if (!own.halves) return [x, y, w, h];
        return [x, (y + (side === "export" ? 1 : 0)) / 2, w, h / 2];
      },
      draw(coarse) {
        const canvas = this.$refs.canvas;
        if (!canvas || !own.pictures.export) return;
        const started = performance.now(), pen = canvas.getContext("2d"), styles = getComputedStyle(document.documentElement);
        pen.fillStyle = styles.getPropertyValue("--sk-surround");
        pen.fillRect(0, 0, canvas.width, canvas.height);
        for (const [side, left, wide, clipLeft, clipWide, height] of this.parts()) {
          const seen = own.sphere.render(own.halves ? "proxy" : side, this.looking(side), this.cellOf(side), Math.round(wide), height, coarse, [clipLeft - left, clipLeft - left + clipWide]);
          pen.save();
          pen.beginPath();
          pen.rect(clipLeft, 0, clipWide, height);
          pen.clip();
          pen.drawImage(seen, left, 0, wide, height);
          if (this.marks) this.mark(pen, styles, side, left, wide, height);
          pen.restore();
          window.skLabel.draw(pen, styles, side, this.way === "wipe" && side === "export" ? Math.min(clipLeft + 12, canvas.width - 80) : clipLeft + 12, height - 12, 12);
        }
        if (this.way === "wipe") {
          pen.fillStyle = styles.getPropertyValue("--sk-accent");
          pen.fillRect(Math.round(this.line * canvas.width) - 1, 0, 2, canvas.height);
        }
        this.drawFlat(styles, own.halves || own.pictures.export, Boolean(own.halves));
        this.tell();
        own.times.push(performance.now() - started);
        if (own.times.length > 30) own.times.shift();
        if (coarse) this.pickFaster();
        if (!coarse && !own.fault && !this.drawn.startsWith("drawing")) this.drawn = `${own.sphere.name}, ${this.middle().toFixed(0)} ms a picture`;
        clearTimeout(own.rest);
        if (coarse) own.rest = setTimeout(() => this.draw(), REST_MS);
      },
      // Where WebGL is drawn by the processor, a plain canvas may be the faster of the two.
      pickFaster() {
        if (own.other === undefined && own.times.length >= 8 && this.middle() > SLOW_MS) {
          own.other = { sphere: own.sphere, time: this.middle() };
          own.sphere = window.skSphere.make(own.sphere.name === "WebGL");
          this.uploadAll();
          own.times = [];
        } else if (own.other && own.other.sphere && own.times.length >= 8) {
          if (this.middle() > own.other.time) { own.sphere = own.other.sphere; this.uploadAll(); own.times = []; }
          own.other = {};
        }
      },
      uploadAll() {
        SIDES.forEach((side) => { if (own.pictures[side]) own.sphere.upload(side, own.pictures[side]); });
        if (own.halves) own.sphere.upload("proxy", own.halves);
      },
      middle() { const sorted = [...own.times].sort((a, b) => a - b); return sorted[sorted.length >> 1] || 0; },
      turn(dx, dy) {
        this.yaw = ((this.yaw + dx + 540) % 360) - 180;
        this.pitch = Math.max(-90, Math.min(this.pitch + dy, 90));
        this.moved();
      },
      setFov(fov) { this.fov = Math.max(LEAST_VIEW, Math.min(fov, MOST_VIEW)); this.moved(); },
      // One picture to each of the display's own, however many moves there are.
      moved() {
        if (own.due) return;
        own.due = true;
        requestAnimationFrame(() => { own.due = false; this.draw(true); });
      },
      grab(event) {
        event.target.setPointerCapture(event.pointerId);
        this.turnOver();
        own.pointers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      },
      drag(event) {
        const from = own.pointers.get(event.pointerId);
        if (!from) return;
        const box = this.$refs.canvas.getBoundingClientRect(), here = { x: event.clientX, y: event.clientY };
        if (own.pointers.size === 2) {
          const other = [...own.pointers].find(([id]) => id !== event.pointerId)[1];
          const [before, now] = [from, here].map((p) => Math.hypot(p.x - other.x, p.y - other.y));
          if (before > 1) this.setFov((this.fov * before) / Math.max(now, 1));
        } else if (this.way === "wipe" && Math.abs(from.x - box.left - this.line * box.width) < 14) {
          this.line = Math.max(0, Math.min((here.x - box.left) / box.width, 1));
          this.moved();
        } else {
          const wide = this.way === "beside" ? box.width / 2 : box.width, each = this.fov / wide;
          this.turn((from.x - here.x) * each, (here.y - from.y) * each);
        }
        own.pointers.set(event.pointerId, here);
      },
      release(event) { own.pointers.delete(event.pointerId); },
      wheel(event) { event.preventDefault(); this.setFov(this.fov * (event.deltaY < 0 ? 0.92 : 1.087)); },
      toggle() { if (this.playing) this.stop(); else this.play(); },
      play() {
        this.playing = true;
        this.drawn = "making the proxy…";
        own.player.play(this.rows[this.index][1]);
      },
      stop() {
        if (!this.playing) return;
        this.playing = false;
        own.player.stop();
        if (own.halves) this.load(this.index);
      },
      showPlayed(video, frame) {
        own.sphere.upload("proxy", video);
        own.halves = video;
        const near = (index) => Math.abs(this.rows[index][1] - frame);
        this.index = this.rows.reduce((best, _, index) => (near(index) < near(best) ? index : best), 0);
        this.$dispatch("shown", { index: this.index });
        this.words = `export ${frame}`;
        this.draw(true);
      },
      key(event) {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const far = event.shiftKey ? 20 : TURN;
        const deeds = {
          ArrowLeft: () => this.turn(-far, 0), ArrowRight: () => this.turn(far, 0), ArrowUp: () => this.turn(0, far), ArrowDown: () => this.turn(0, -far),
          "+": () => this.setFov(this.fov * 0.9), "=": () => this.setFov(this.fov * 0.9), "-": () => this.setFov(this.fov / 0.9),
          0: () => this.home(), 9: () => this.behind(), m: () => this.toggleMarks(), r: () => this.toggle(),
          b: () => this.go(WAYS[(WAYS.indexOf(this.way) + 1) % WAYS.length]),
          ",": () => { this.stop(); this.load(this.index - 1); }, ".": () => { this.stop(); this.load(this.index + 1); },
          "[": () => { this.line = Math.max(0, this.line - 0.02); this.draw(); }, "]": () => { this.line = Math.min(1, this.line + 0.02); this.draw(); },
        };
        if (deeds[event.key]) { deeds[event.key](); event.preventDefault(); }
      },
    });
  });
});
