// @ts-check
// Player: plays proxies piece after piece, as the server makes them; forwards and backwards.
// window.skPlayer.make({address, step, rate, last, show, end}) → {play(frame, speed), stop(), stretch(from, to), prepare(frame)}.
// address(frame): where a piece beginning at a frame of the export is; step: frames of the export from one picture to
// the next; rate: pictures a second; last: the export's last frame. show(video, frame) is called for every picture;
// end(error) when all is played, or a piece could not be made. speed: 1, 2, 4; backwards below 0.
// stretch: what is played again and again, by frames of the export; from null: all, once.
(function () {
  const PIECE_S = 4, MOST_KEPT = 4; // as core/rehearsed/proxy.py; pieces that are fetched once

  // Pieces begin at even places, so that wherever one starts the same ones serve.
  function library(address) {
    const kept = new Map();
    async function fetched(place) {
      const answer = await fetch(place);
      if (!answer.ok) throw new Error((await answer.text()) || "The proxy could not be made.");
      return URL.createObjectURL(await answer.blob());
    }
    return function piece(from) {
      const place = address(from), known = kept.get(place) || fetched(place);
      kept.delete(place);
      kept.set(place, known);
      known.catch(() => kept.delete(place));
      if (kept.size > MOST_KEPT) {
        const [oldest, made] = kept.entries().next().value;
        kept.delete(oldest);
        made.then((url) => URL.revokeObjectURL(url), () => null);
      }
      return known;
    };
  }

  window.skPlayer = {
    make({ address, step, rate, last, show, end }) {
      const whole = Math.round(PIECE_S * rate) * step; // frames of the export that a piece spans
      const piece = library(address);
      let video = null, first = 0, until = last, loops = false;

      function stop() {
        if (!video) return;
        video.pause();
        video = null;
      }
      function stretch(from, to) {
        loops = from !== null;
        [first, until] = loops ? [from, to] : [0, last];
      }
      // At the edge of what is played: from its other end again, or the end of it all.
      function turn(made, speed) {
        if (loops) { play(speed > 0 ? first : until, speed); return; }
        show(made, speed > 0 ? last : 0);
        stop();
        end();
      }
      const timeOf = (frame, from) => Math.floor((frame - from) / step) / rate + 0.25 / rate;

      function follow(made, from, speed) {
        if (video !== made || made.ended) return;
        const frame = Math.min(from + Math.floor(made.currentTime * rate) * step, last);
        if (frame > until) { turn(made, speed); return; }
        if (made.readyState >= 2) show(made, frame);
        requestAnimationFrame(() => follow(made, from, speed));
      }
      function forwards(made, from, frame, speed) {
        made.onended = () => {
          if (video !== made) return;
          const next = from + whole;
          if (next <= until) play(next, speed); else turn(made, speed);
        };
        made.onloadeddata = () => {
          if (video !== made) return;
          made.playbackRate = speed;
          made.currentTime = Math.min(timeOf(frame, from), Math.max(made.duration - 0.5 / rate, 0));
          made.play().then(() => follow(made, from, speed), (error) => fail(made, error));
          if (from + whole <= until) piece(from + whole).catch(() => null); // is told when it is its turn
        };
      }
      // A video plays no way but on: backwards is seeking, picture by picture.
      function backwards(made, from, frame, speed) {
        let due = 0;
        made.onseeked = () => {
          if (video !== made) return;
          show(made, frame);
          due = Math.max(due + 1000 / rate / speed, performance.now());
          frame -= step;
          setTimeout(() => {
            if (video !== made) return;
            if (frame < first) turn(made, -speed);
            else if (frame < from) play(frame, -speed);
            else made.currentTime = timeOf(frame, from);
          }, due - performance.now());
        };
        made.onloadeddata = () => {
          due = performance.now();
          made.currentTime = timeOf(frame, from);
          if (from > first) piece(from - whole).catch(() => null);
        };
      }
      function fail(made, error) { if (video === made) { stop(); end(error); } }

      function play(frame, speed = 1) {
        stop();
        const made = document.createElement("video");
        video = made;
        const at = Math.max(first, Math.min(frame, until)), from = Math.floor(at / whole) * whole;
        piece(from).then((url) => {
          if (video !== made) return;
          if (speed > 0) forwards(made, from, at, speed);
          else backwards(made, from, from + Math.floor((at - from) / step) * step, -speed);
          Object.assign(made, { muted: true, playsInline: true, src: url });
        }).catch((error) => fail(made, error));
      }
      // What is likely to be played soon is made meanwhile.
      const prepare = (frame) => { piece(Math.floor(Math.max(frame, 0) / whole) * whole).catch(() => null); };
      return { play, stop, stretch, prepare };
    },
  };
})();
