// @ts-check
// Look's address: holds moment, layout, display, size, place and stretch, so that it can be sent; and going to a moment.
// window.skLook.address() → deeds that look.js takes over.
window.skLook = window.skLook || {};
window.skLook.address = function () {
  return /** @type {LookPart} */ ({
    // The address holds moment, layout, display, size and place, so that it can be sent.
    remember() {
      const told = new URLSearchParams({ frame: String(this.chosen().export) });
      if (this.way !== "wipe") told.set("way", this.way);
      if (this.$refs.display.selectedIndex) told.set("display", this.display);
      if (this.scoping) told.set("scopes", "");
      if (this.stretch) [["from", this.stretch[0]], ["to", this.stretch[1]]].forEach(([k, v]) => told.set(String(k), String(v)));
      if (this.zoom > 1) Object.entries({ zoom: this.zoom, x: this.centre.x, y: this.centre.y }).forEach(([k, v]) => told.set(k, v.toFixed(3)));
      history.replaceState(history.state, "", `?${told}`);
    },
    recall() {
      const told = new URLSearchParams(location.search), share = (name) => Math.max(0, Math.min(Number(told.get(name)) || 0, 1));
      if ([...this.$refs.display.options].some((one) => one.value === told.get("display"))) { this.$refs.display.value = told.get("display"); this.tellNote(); }
      if (this.WAYS.includes(told.get("way"))) this.go(told.get("way"));
      const from = Number(told.get("from")), to = Number(told.get("to"));
      if (told.has("from") && from >= 0 && from < to) this.putStretch([from, to]);
      if (told.has("scopes")) this.toggleScopes();
      const zoom = Number(told.get("zoom"));
      if (zoom > 1) Object.assign(this, { zoom: Math.min(zoom, this.MOST_ZOOM), centre: { x: share("x"), y: share("y") } });
    },
    goTo(event) {
      const frame = this.timecode.frameOf(event.target.value), last = this.rows[this.rows.length - 1][1];
      const bad = frame === null || frame < 0 || frame > last;
      event.target.setCustomValidity(bad ? `A timecode from ${this.timecode.at(0)} to ${this.timecode.at(last)}, or a frame from 0 to ${last}.` : "");
      if (!event.target.reportValidity()) return;
      this.stop();
      this.load(this.rowOf(frame));
      event.target.blur();
    },
    nextWorst() {
      const buttons = [...this.$root.querySelectorAll(".sk-worst button")];
      if (buttons.length) this.load(Number(buttons[this.worst++ % buttons.length].dataset.index));
    },
  });
};
