// @ts-check
// Look's playing: both in step, from proxies (player.js), at several speeds, both ways, over a marked stretch.
// window.skLook.playing() → state and deeds that look.js takes over. stretch: [from, to] in frames of the export, or null.
window.skLook = window.skLook || {};
window.skLook.playing = function () {
  const FASTEST = 4;
  return /** @type {LookPart} */ ({
    playing: false, speed: 0, film: null, stretch: null,
    // The server makes piece after piece: the master above in every picture.
    makePlayer() {
      const { step, rate, last } = this.$root.dataset;
      return window.skPlayer.make({
        address: (frame) => `${this.$root.dataset.base}proxy/${frame}/${this.display}.mp4`, step: Number(step), rate: Number(rate), last: Number(last),
        show: (film, frame) => { this.film = film; this.follow(frame); },
        end: (error) => { this.stop(); if (error) this.say(error.message); },
      });
    },
    togglePlay() { if (this.playing) this.stop(); else this.playAt(1); },
    // On, or back: pressed again, faster.
    hasten(way) { this.playAt(Math.sign(this.speed) === way ? way * Math.min(Math.abs(this.speed) * 2, FASTEST) : way); },
    playAt(speed) {
      this.playing = true;
      this.speed = speed;
      if (!this.film) this.say("making the proxy…");
      this.player.play(this.chosen().export, speed);
    },
    follow(frame) {
      if (!this.playing) return;
      this.index = this.rowOf(frame);
      this.$dispatch("shown", { index: this.index });
      this.say(this.speed === 1 ? "playing" : `playing ${this.speed < 0 ? "back " : ""}at ${Math.abs(this.speed)}×`);
      this.draw();
    },
    stop() {
      if (!this.playing) return;
      Object.assign(this, { playing: false, speed: 0, film: null });
      this.player.stop();
      this.load(this.index);
    },
    stepFrame(by) { this.stop(); this.load(this.index + by); },
    // A stretch is played again and again until it is cleared.
    markFrom() { this.markStretch(this.chosen().export, this.stretch ? this.stretch[1] : this.rows[this.rows.length - 1][1]); },
    markTo() { this.markStretch(this.stretch ? this.stretch[0] : this.rows[0][1], this.chosen().export); },
    clearStretch() { this.putStretch(null); },
    markStretch(from, to) { this.putStretch(from < to ? [from, to] : [Math.min(from, to), Math.max(from, to) + 1]); },
    putStretch(stretch) {
      this.stretch = stretch;
      this.player.stretch(stretch && stretch[0], stretch && stretch[1]);
      this.$dispatch("stretch", { rows: stretch && stretch.map((frame) => this.rowOf(frame)) });
      if (stretch) this.player.prepare(stretch[0]);
      this.remember();
    },
    ready() { if (!this.playing) this.player.prepare(this.chosen().export); },
  });
};
