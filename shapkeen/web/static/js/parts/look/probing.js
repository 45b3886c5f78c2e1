// @ts-check
// Look's probe and scopes: values of both pictures at a place or over an area; waveform, vector and tone of the shown
// moment, or of that area. The server reads them.
// window.skLook.probing() → state and deeds that look.js takes over. Needs: ref probed, [data-scopes]; connection.js.
window.skLook = window.skLook || {};
window.skLook.probing = function () {
  // One question at a time; the last one asked for meanwhile comes next. address(): what to ask; put(html): what came.
  function asker(address, put) {
    let asking = false, again = false;
    return function ask() {
      if (asking) { again = true; return; }
      asking = true;
      fetch(address())
        .then((answer) => answer.text())
        .then(put)
        .catch(() => { again = true; return window.skConnection.returned(); })
        .finally(() => { asking = false; if (again) { again = false; ask(); } });
    };
  }
  return /** @type {LookPart} */ ({
    probing: false, scoping: false, spot: { x: 0.5, y: 0.5, w: 0, h: 0 }, held: null,
    prepareProbe() {
      const address = (what, area) => {
        const { master, export: other } = this.chosen(), { x, y, w, h } = this.spot;
        return `${this.$root.dataset.base}${what}/${master}/${other}/${area ? `?x=${x}&y=${y}&w=${w}&h=${h}` : ""}`;
      };
      this.askProbe = asker(() => address("probe", true), (html) => { if (this.probing) this.$refs.probed.innerHTML = html; });
      this.askScopes = asker(() => address("scopes", this.probing && this.spot.w > 0), (html) => { if (this.scoping) this.scopesPlace().innerHTML = html; });
    },
    scopesPlace() { return this.$root.querySelector("[data-scopes]"); }, // refs end at another root
    toggleProbe() {
      this.probing = !this.probing;
      if (!this.probing) this.$refs.probed.replaceChildren();
      this.ask();
      this.room.resize();
    },
    toggleScopes() {
      this.scoping = !this.scoping;
      this.$root.toggleAttribute("data-scoping", this.scoping);
      if (!this.scoping) this.scopesPlace().replaceChildren();
      this.ask();
      this.room.resize();
      this.remember();
    },
    ask() {
      for (const [on, place, read] of [[this.probing, this.$refs.probed, this.askProbe], [this.scoping, this.scopesPlace(), this.askScopes]]) {
        if (!on) continue;
        if (!place.childElementCount) place.textContent = "reading…";
        read();
      }
    },
    // Arrows: the probe where there is one, else frames of the film.
    step(dx, dy, large) {
      if (this.probing) {
        const box = this.place(this.pictures.export, 0, this.$refs.canvas.width, this.$refs.canvas.height);
        const size = (large ? 24 : 2) / box.w, cut = (v) => Math.max(0, Math.min(v, 0.99999));
        Object.assign(this.spot, { x: cut(this.spot.x + dx * size), y: cut(this.spot.y + (dy * size * box.w) / box.h) });
        this.ask();
        this.draw();
      } else if (dx) this.stepFrame(large ? 10 * dx : dx);
    },
    moveLine(by) { this.line = Math.max(0, Math.min(this.line + by, 1)); this.draw(); },
    // The area round the probe's place, by keys: shrinks to a single sample.
    widen(by) {
      if (!this.probing) return;
      const w = Math.max(0, Math.min(this.spot.w + by, 1 - this.spot.x));
      Object.assign(this.spot, { w, h: w && Math.min(w, 1 - this.spot.y) });
      this.ask();
      this.draw();
    },
    grab(event) {
      if (!this.pictures.master) return;
      event.target.setPointerCapture(event.pointerId);
      const point = this.at(event);
      if (this.remarking && !event.shiftKey) { this.remarkAt(point); return; }
      this.turnOver();
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
  });
};
