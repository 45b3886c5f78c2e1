// Glasses: both eyes' pictures in one, for coloured glasses, as a difference, or one alone.
// window.skGlasses: linear(context, …) takes an eye's picture as linear light; mix, differ and alone write
// sRGB bytes; ghosting tells what reaches each eye of the other. Formulas: the core's colour/anaglyph.py.
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
    mix(pair) {
      const [a, b] = [pair.left.flat(), pair.right.flat()];
      return (goal, to, left, at, right, from) => {
        const lr = left[at], lg = left[at + 1], lb = left[at + 2];
        const rr = from < 0 ? 0 : right[from], rg = from < 0 ? 0 : right[from + 1], rb = from < 0 ? 0 : right[from + 2];
        goal[to] = byte(a[0] * lr + a[1] * lg + a[2] * lb + b[0] * rr + b[1] * rg + b[2] * rb);
        goal[to + 1] = byte(a[3] * lr + a[4] * lg + a[5] * lb + b[3] * rr + b[4] * rg + b[5] * rb);
        goal[to + 2] = byte(a[6] * lr + a[7] * lg + a[8] * lb + b[6] * rr + b[7] * rg + b[8] * rb);
      };
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
