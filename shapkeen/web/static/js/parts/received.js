// @ts-check
// Received: what was sent beside what is received, on one screen, as large as the window allows.
// Needs: data-base, data-frame; renditions in #renditions as {name, step, rate, series, frames}; refs canvas, place,
// rendition, against, screen, peak. Both sides come as one film of whole frames (the sent one above), in which any frame
// is at hand at once; the exact picture replaces it where one stays. Needs: picture.js, roomy.js, label.js, received/drawing.js.
document.addEventListener("alpine:init", function () {
  const PIECE = 360; // frames of one film, as stills.py makes them
  const WAYS = ["wipe", "beside", "alternate"], MOST_ZOOM = 32, STAYS_MS = 250, TURN = 15;
  Alpine.data("received", function () {
    return /** @type {ReceivedPart} */ ({
      ...window.skReceived.drawing(),
      way: "wipe", line: 0.5, zoom: 1, centre: { x: 0.5, y: 0.5 }, yaw: 0, pitch: 0, playing: false, large: false,
      words: "", held: null, showsReceived: false, at: 0, pictures: null, film: null, asked: 0,
      first: null, last: 0, wanted: false, exact: false, later: 0, turnWorst: -1,
      renditions: JSON.parse(document.getElementById("renditions").textContent),
      init() {
        this.change();
        this.room = window.skRoomy({ root: this.$root, canvas: this.$refs.canvas, below: () => [92, 44], draw: () => this.draw() });
        this.turnOver = window.skAlternate(700, () => this.way === "alternate" && !this.held, () => { this.showsReceived = !this.showsReceived; this.draw(); });
        document.addEventListener("keydown", (event) => { if (!event.target.closest("input, select, textarea, button")) this.key(event); });
        this.room.resize();
      },
      get rendition() { return this.renditions[Number(this.$refs.rendition.value)]; },
      get frame() { return this.rendition.frames[this.at]; },
      query() {
        const { rendition, screen, peak } = this.$refs;
        return `rendition=${rendition.value}&screen=${screen.value}&peak=${peak.value}&yaw=${this.yaw}&pitch=${this.pitch}`;
      },
      // Another rendition, screen or side: its film is made in the background while its picture is drawn.
      change() {
        const frames = this.rendition.frames, wanted = this.pictures ? this.last : Number(this.$root.dataset.frame);
        this.stop();
        this.wanted = false;
        this.$refs.place.max = frames.length - 1;
        this.first = null;
        this.go(this.nearest(wanted));
      },
      nearest(frame) {
        const frames = this.rendition.frames;
        return frames.reduce((best, one, place) => (Math.abs(one - frame) < Math.abs(frames[best] - frame) ? place : best), 0);
      },
      // The film is in pieces; the one that holds a frame is fetched where another one is at hand.
      load(first) {
        this.first = first;
        this.film = null;
        const query = this.query(), side = this.$refs.against.value;
        fetch(`${this.$root.dataset.base}pair/${side}/${first}.mp4?${query}`).then((answer) => (answer.ok ? answer.blob() : null)).then((blob) => {
          if (!blob || first !== this.first || query !== this.query() || side !== this.$refs.against.value) return;
          const film = document.createElement("video");
          Object.assign(film, { muted: true, playsInline: true, preload: "auto", src: URL.createObjectURL(blob) });
          film.addEventListener("loadeddata", () => {
            this.film = film;
            this.seek();
            this.tell();
            if (this.wanted) this.play();
          }, { once: true });
          film.addEventListener("seeked", () => { if (this.film === film && !this.exact) this.draw(); });
          film.addEventListener("ended", () => this.goOn());
        });
      },
      go(place) {
        this.at = Math.max(0, Math.min(place, this.rendition.frames.length - 1));
        this.last = this.frame;
        this.$refs.place.value = this.at;
        this.exact = false;
        const first = Math.floor(this.at / PIECE) * PIECE;
        if (first !== this.first) this.load(first);
        this.seek();
        clearTimeout(this.later);
        this.later = setTimeout(() => this.still(), this.film ? STAYS_MS : 0);
        this.tell();
      },
      seek() { if (this.film) this.film.currentTime = (this.at - this.first + 0.5) / this.rendition.rate; },
      // At the end of a piece the next one is played as soon as it is there.
      goOn() {
        const next = this.first + PIECE, plays = this.playing;
        this.stop();
        if (plays && next < this.rendition.frames.length) { this.go(next); this.wanted = true; }
      },
      // The exact picture of both sides, where one frame stays.
      still() {
        const asked = ++this.asked, query = this.query(), frame = this.frame;
        const sides = [this.$refs.against.value, "rendition"].map((side) =>
          window.skPicture(`${this.$root.dataset.base}still/${side}/${frame}.png?${query}`, `frame ${frame}`));
        Promise.all(sides).then(([sent, got]) => {
          if (asked !== this.asked || frame !== this.frame || this.playing) return;
          this.pictures = { sent, got };
          this.exact = true;
          this.tell();
          this.draw();
        }).catch((error) => { this.words = error.message; });
      },
      tell() {
        const row = this.rendition.series.find((one) => one[0] === this.frame);
        const told = row ? ` · SSIM ${row[1].toFixed(4)} · PSNR ${row[2].toFixed(1)} dB${row[3] === null ? "" : ` · ΔE ${row[3].toFixed(1)}`}` : "";
        this.words = `frame ${this.frame}${told}${this.exact ? "" : this.film ? " · preview" : " · drawing…"}`;
      },
      scrub(event) { this.stop(); this.go(Number(event.currentTarget.value)); },
      goto(event) { this.stop(); this.go(this.nearest(Number(event.currentTarget.dataset.frame))); },
      worst() {
        const rows = [...this.rendition.series].sort((a, b) => a[1] - b[1]);
        this.turnWorst = (this.turnWorst + 1) % Math.min(rows.length, 5);
        if (rows.length) this.go(this.nearest(rows[this.turnWorst][0]));
      },
      togglePlay() { if (this.playing) this.stop(); else this.play(); },
      play() {
        this.wanted = !this.film;
        if (!this.film) { this.words = "The film is being made; it plays as soon as it is there."; return; }
        if (this.at >= this.rendition.frames.length - 1) this.go(0);
        this.playing = true;
        this.exact = false;
        clearTimeout(this.later);
        this.film.play().catch(() => {}); // paused before it began
        const follow = () => {
          if (!this.playing) return;
          this.at = Math.min(this.first + Math.floor(this.film.currentTime * this.rendition.rate), this.rendition.frames.length - 1);
          this.$refs.place.value = this.at;
          this.last = this.frame;
          this.tell();
          this.draw();
          requestAnimationFrame(follow);
        };
        follow();
      },
      stop() {
        if (!this.playing) return;
        this.playing = false;
        this.film.pause();
        this.go(this.at);
      },
      toggleLarge() { this.large = this.room.toggle(); },
      setWay(event) { this.setLayout(event.currentTarget.dataset.way); },
      setLayout(way) {
        this.way = way;
        this.$root.querySelectorAll("[data-way]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.way === way));
        this.draw();
      },
      place(event) {
        const box = this.$refs.canvas.getBoundingClientRect();
        return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
      },
      grab(event) {
        event.target.setPointerCapture(event.pointerId);
        this.turnOver();
        this.held = { ...this.place(event), pans: event.shiftKey || event.button === 1 || (this.zoom > 1 && this.way !== "wipe") };
        this.drag(event);
      },
      drag(event) {
        if (!this.held) return;
        const to = this.place(event);
        if (this.held.pans) {
          this.pan((this.held.x - to.x) / this.zoom, (this.held.y - to.y) / this.zoom);
          Object.assign(this.held, to);
        } else if (this.way === "wipe") { this.line = Math.max(0, Math.min(to.x, 1)); this.draw(); }
      },
      release() { this.held = null; },
      zoomBy(event) { event.preventDefault(); this.setZoom(this.zoom * (event.deltaY < 0 ? 1.25 : 0.8)); },
      setZoom(zoom) {
        this.zoom = Math.max(1, Math.min(zoom, MOST_ZOOM));
        if (this.zoom === 1) this.centre = { x: 0.5, y: 0.5 };
        this.draw();
      },
      pan(dx, dy) {
        this.centre = { x: Math.max(0, Math.min(this.centre.x + dx, 1)), y: Math.max(0, Math.min(this.centre.y + dy, 1)) };
        this.draw();
      },
      turn(yaw, pitch) {
        if (!("sphere" in this.$root.dataset)) return;
        this.yaw += yaw;
        this.pitch = Math.max(-90, Math.min(this.pitch + pitch, 90));
        this.change();
      },
      key(event) {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const move = 0.1 / this.zoom, by = event.shiftKey ? 0.1 : 0.02;
        const deeds = {
          ",": () => { this.stop(); this.go(this.at - 1); }, ".": () => { this.stop(); this.go(this.at + 1); }, n: () => this.worst(),
          " ": () => this.togglePlay(), r: () => this.togglePlay(), b: () => this.setLayout(WAYS[(WAYS.indexOf(this.way) + 1) % WAYS.length]), v: () => this.toggleLarge(),
          "+": () => this.setZoom(this.zoom * 1.25), "=": () => this.setZoom(this.zoom * 1.25), "-": () => this.setZoom(this.zoom * 0.8), 0: () => this.setZoom(1),
          w: () => this.pan(0, -move), s: () => this.pan(0, move), a: () => this.pan(-move, 0), d: () => this.pan(move, 0),
          h: () => this.turn(-TURN, 0), l: () => this.turn(TURN, 0), u: () => this.turn(0, TURN), m: () => this.turn(0, -TURN),
          ArrowLeft: () => { this.line = Math.max(0, this.line - by); this.draw(); }, ArrowRight: () => { this.line = Math.min(1, this.line + by); this.draw(); },
          Escape: () => { if (this.large) this.toggleLarge(); },
        };
        if (!deeds[event.key]) return;
        deeds[event.key]();
        event.preventDefault();
      },
    });
  });
});
