// Player: plays proxies piece after piece, as the server makes them.
// window.skPlayer.make({address, step, rate, last, show, end}) → {play(frame), stop()}.
// address(frame): where a piece beginning at a frame of the export is; step: frames of the export from one picture to
// the next; rate: pictures a second; last: the export's last frame. show(video, frame) is called for every picture;
// end(error) when all is played, or a piece could not be made.
(function () {
  window.skPlayer = {
    make({ address, step, rate, last, show, end }) {
      let video = null, place = null;
      function stop() {
        if (!video) return;
        video.pause();
        URL.revokeObjectURL(place);
        video = null;
      }
      function fail(error) { stop(); end(error); }
      async function piece(frame) {
        const answer = await fetch(address(frame));
        if (!answer.ok) throw new Error((await answer.text()) || "The proxy could not be made.");
        return answer.blob();
      }
      function follow(shown, frame) {
        if (video !== shown || shown.ended) return;
        if (shown.readyState >= 2) show(shown, Math.min(frame + Math.round(shown.currentTime * rate) * step, last));
        requestAnimationFrame(() => follow(shown, frame));
      }
      function play(frame) {
        stop();
        const made = document.createElement("video");
        video = made;
        place = null;
        piece(frame).then((blob) => {
          if (video !== made) return null;
          place = URL.createObjectURL(blob);
          Object.assign(made, { muted: true, playsInline: true, src: place });
          made.addEventListener("playing", () => follow(made, frame), { once: true });
          made.onended = () => {
            if (video !== made) return;
            const next = frame + Math.max(Math.round((made.duration || 0) * rate), 1) * step;
            if (next <= last) { play(next); return; }
            show(made, last);
            stop();
            end();
          };
          return made.play();
        }).catch((error) => { if (video === made) fail(error); });
      }
      return { play, stop };
    },
  };
})();
