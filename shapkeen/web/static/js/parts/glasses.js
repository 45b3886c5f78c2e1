// @ts-check
// Glasses: both eyes' pictures in one, for coloured glasses, as a difference, or one alone.
// window.skGlasses: linear(picture, …) takes an eye's picture as linear light; blend, and each with differ or
// alone, write sRGB bytes; ghosting tells what reaches each eye of the other. Formulas: the core's colour/anaglyph.py.
(function () {
  const STEPS = 4096, toLight = new Float32Array(256), toCode = new Uint8ClampedArray(STEPS + 1);
  for (let code = 0; code < 256; code++) {
    const signal = code / 255;
    toLight[code] = signal <= 0.04045 ? signal / 12.92 : ((signal + 0.055) / 1.055) ** 2.4;
  }
  for (let at = 0; at <= STEPS; at++) {
    const light = at / STEPS;
    toCode[at] = 255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055);
  }
  const byte = (light) => toCode[light <= 0 ? 0 : light >= 1 ? STEPS : (light * STEPS + 0.5) | 0];

  window.skGlasses = {
    // Linear light of a part of a picture at a size: three values a sample.
    linear(picture, cell, width, height) {
      const canvas = document.createElement("canvas");
      Object.assign(canvas, { width, height });
      const pen = canvas.getContext("2d", { willReadFrequently: true });
      const { naturalWidth: wide, naturalHeight: high } = picture, [x, y, w, h] = cell;
      pen.drawImage(picture, x * wide, y * high, w * wide, h * high, 0, 0, width, height);
      const codes = pen.getImageData(0, 0, width, height).data, light = new Float32Array(width * height * 3);
      for (let from = 0, to = 0; from < codes.length; from += 4) {
        light[to++] = toLight[codes[from]];
        light[to++] = toLight[codes[from + 1]];
        light[to++] = toLight[codes[from + 2]];
      }
      return light;
    },
    // As each(), for glasses: unrolled, for convergence must follow the hand.
    blend(left, right, width, height, shift, goal, pair) {
      const [a0, a1, a2, a3, a4, a5, a6, a7, a8] = pair.left.flat(), [b0, b1, b2, b3, b4, b5, b6, b7, b8] = pair.right.flat();
      const inks = new Uint32Array(goal.buffer), top = STEPS;
      const code = (light) => toCode[light <= 0 ? 0 : light >= 1 ? top : (light * top + 0.5) | 0];
      for (let row = 0, at = 0, to = 0; row < height; row++) {
        for (let column = 0; column < width; column++, at += 3) {
          const from = column - shift, seen = from >= 0 && from < width, there = at - 3 * shift;
          const lr = left[at], lg = left[at + 1], lb = left[at + 2];
          const rr = seen ? right[there] : 0, rg = seen ? right[there + 1] : 0, rb = seen ? right[there + 2] : 0;
          const r = code(a0 * lr + a1 * lg + a2 * lb + b0 * rr + b1 * rg + b2 * rb);
          const g = code(a3 * lr + a4 * lg + a5 * lb + b3 * rr + b4 * rg + b5 * rb);
          const b = code(a6 * lr + a7 * lg + a8 * lb + b6 * rr + b7 * rg + b8 * rb);
          inks[to++] = 0xff000000 | (b << 16) | (g << 8) | r;
        }
      }
    },
    // shift: samples by which the right eye's picture is moved right. way(goal, at, left, right): writes one.
    each(left, right, width, height, shift, goal, way) {
      for (let row = 0, at = 0, to = 0; row < height; row++) {
        const start = row * width;
        for (let column = 0; column < width; column++, at += 3, to += 4) {
          const from = column - shift;
          way(goal, to, left, at, right, from >= 0 && from < width ? (start + from) * 3 : -1);
          goal[to + 3] = 255;
        }
      }
    },
    differ(goal, to, left, at, right, from) {
      for (let n = 0; n < 3; n++) {
        const apart = byte(left[at + n]) - byte(from < 0 ? 0 : right[from + n]);
        goal[to + n] = 128 + apart / 2;
      }
    },
    alone(isRight) {
      return (goal, to, left, at, right, from) => {
        for (let n = 0; n < 3; n++) goal[to + n] = byte(isRight ? (from < 0 ? 0 : right[from + n]) : left[at + n]);
      };
    },
    // What reaches each eye of the other's picture, as shares of its own: by what changes behind a
    // filter when the other eye's picture is taken away. Every eighth sample tells enough.
    ghosting(left, right, width, height, shift, pair, matrices) {
      const [a, b] = matrices.map((one) => one.flat()), cut = (v) => (v < 0 ? 0 : v > 1 ? 1 : v);
      const own = [0, 0], stray = [0, 0];
      for (let row = 0; row < height; row += 3) {
        for (let column = Math.max(shift, 0); column < Math.min(width, width + shift); column += 3) {
          const at = (row * width + column) * 3, from = (row * width + column - shift) * 3;
          const seen = [[0, 0], [0, 0]];
          for (let n = 0; n < 3; n++) {
            const l = a[3 * n] * left[at] + a[3 * n + 1] * left[at + 1] + a[3 * n + 2] * left[at + 2];
            const r = b[3 * n] * right[from] + b[3 * n + 1] * right[from + 1] + b[3 * n + 2] * right[from + 2];
            const both = cut(l + r);
            [cut(l), cut(r)].forEach((alone, eye) => {
              seen[eye][0] += pair.filters[eye][n] * alone;
              seen[eye][1] += pair.filters[eye][n] * (both - alone);
            });
          }
          for (const eye of [0, 1]) { own[eye] += seen[eye][0]; stray[eye] += Math.abs(seen[eye][1]); }
        }
      }
      return [0, 1].map((eye) => (own[eye] > 0 ? stray[eye] / own[eye] : 0));
    },
  };
})();
