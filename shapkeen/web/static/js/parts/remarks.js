// @ts-check
// Remarks: what somebody said of a frame, drawn on the picture as numbered marks.
// Reads the list of #remarks: its items carry data-number, data-frame, data-x, data-y (of the
// master's picture, as fractions), data-closed.
// window.skRemarks.mixin(): state and deeds that Look takes over; window.skRemarks.draw(…) draws.
(function () {
  const SIZE = 11;

  function all() {
    return [...document.querySelectorAll("#remarks [data-remark]")].map((item) => ({
      number: item.dataset.number, frame: Number(item.dataset.frame), closed: "closed" in item.dataset,
      x: "x" in item.dataset ? Number(item.dataset.x) : null, y: "y" in item.dataset ? Number(item.dataset.y) : null,
    }));
  }

  function mark(pen, ink, page, x, y, text) {
    pen.beginPath();
    pen.arc(x, y, SIZE, 0, 2 * Math.PI);
    pen.fillStyle = page;
    pen.fill();
    pen.strokeStyle = ink;
    pen.lineWidth = 1.5;
    pen.stroke();
    pen.fillStyle = ink;
    pen.font = '12px "Plex Mono", monospace';
    pen.textAlign = "center";
    pen.fillText(text, x, y + 4);
    pen.textAlign = "start";
  }

  window.skRemarks = {
    // box: of the master's picture within what is drawn; frame: of the export; spot: a place that
    // is being remarked on, or null.
    draw(pen, styles, box, frame, spot) {
      const ink = styles.getPropertyValue("--sk-accent"), page = styles.getPropertyValue("--sk-page");
      for (const one of all()) {
        if (one.frame !== frame || one.x === null || one.closed) continue;
        mark(pen, ink, page, box.x + one.x * box.w, box.y + one.y * box.h, one.number);
      }
      if (spot) mark(pen, ink, page, box.x + spot.x * box.w, box.y + spot.y * box.h, "+");
    },
    mixin() {
      return /** @type {LookPart} */ ({
        remarking: false, remarkSpot: null, remarkWhere: "",
        toggleRemark() {
          if (!this.$refs.remarkText) return;
          this.remarking = !this.remarking;
          this.remarkSpot = null;
          this.putRemark();
          this.room.resize();
        },
        remarkAt(point) {
          this.remarkSpot = this.inPicture(point);
          this.putRemark();
          this.draw();
        },
        putRemark() {
          const { remarkFrame, remarkX, remarkY } = this.$refs, spot = this.remarkSpot;
          remarkFrame.value = this.chosen().export;
          remarkX.value = spot ? spot.x.toFixed(5) : "";
          remarkY.value = spot ? spot.y.toFixed(5) : "";
          const where = spot ? `at ${Math.round(spot.x * 100)} %, ${Math.round(spot.y * 100)} %` : "of the whole picture; press a place to mark it";
          this.remarkWhere = `frame ${this.chosen().export}, ${where}`;
        },
        said(event) {
          if (!event.detail.successful) return;
          this.$refs.remarkText.value = "";
          this.remarkSpot = null;
          this.putRemark();
          this.$nextTick(() => this.draw());
        },
      });
    },
  };
})();
