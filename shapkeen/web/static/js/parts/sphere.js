// @ts-check
// Sphere: draws the inside of a sphere as a viewer's flat window shows it.
// window.skSphere.make(plain) → {name, upload(key, source), render(key, view, cell, width, height, coarse, shown)}.
// source: picture or playing video; view: {yaw, pitch, fov, degrees} in degrees, right and up, and what the
// picture covers across (360, or 180: the rest is left empty); cell: part of the source as fractions
// [left, top, width, height]. Where there is no WebGL, or plain is asked for, a plain canvas does the same.
// Also place(…) and direction(…): where a direction lies in the window, and back.
(function () {
  const RAD = Math.PI / 180;

  // Rows of the turn from a window's direction to the sphere's: yaw after pitch (core, geometry/sphere.py).
  function head({ yaw, pitch }) {
    const [cy, sy, cp, sp] = [Math.cos(yaw * RAD), Math.sin(yaw * RAD), Math.cos(pitch * RAD), Math.sin(pitch * RAD)];
    return [[cy, sy * sp, sy * cp], [0, cp, -sp], [-sy, cy * sp, cy * cp]];
  }

  const VERTEX = `#version 300 es
in vec2 place; out vec2 at;
void main() { at = place; gl_Position = vec4(place, 0.0, 1.0); }`;
  const FRAGMENT = `#version 300 es
precision highp float;
uniform sampler2D picture; uniform mat3 head; uniform vec2 span; uniform vec4 cell; uniform float reach;
in vec2 at; out vec4 ink;
const float PI = 3.14159265358979;
void main() {
  vec3 way = normalize(head * vec3(at.x * span.x, -at.y * span.y, 1.0));
  float across = atan(way.x, way.z) / (2.0 * PI * reach) + 0.5;
  if (reach < 1.0 && abs(across - 0.5) > 0.5) { ink = vec4(0.0); return; }
  across = reach < 1.0 ? across : fract(across);
  float down = acos(clamp(-way.y, -1.0, 1.0)) / PI;
  ink = texture(picture, cell.xy + vec2(across, down) * cell.zw);
}`;

  function shader(gl, kind, text) {
    const made = gl.createShader(kind);
    gl.shaderSource(made, text);
    gl.compileShader(made);
    if (!gl.getShaderParameter(made, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(made));
    return made;
  }

  function withGl() {
    const canvas = document.createElement("canvas");
    const gl = canvas.getContext("webgl2", { antialias: false, preserveDrawingBuffer: true });
    if (!gl) return null;
    const program = gl.createProgram();
    gl.attachShader(program, shader(gl, gl.VERTEX_SHADER, VERTEX));
    gl.attachShader(program, shader(gl, gl.FRAGMENT_SHADER, FRAGMENT));
    gl.linkProgram(program);
    gl.useProgram(program);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
    const place = gl.getAttribLocation(program, "place");
    gl.enableVertexAttribArray(place);
    gl.vertexAttribPointer(place, 2, gl.FLOAT, false, 0, 0);
    const uniform = (name) => gl.getUniformLocation(program, name);
    const [heads, spans, cells, reach] = ["head", "span", "cell", "reach"].map(uniform);
    const textures = {};
    const most = gl.getParameter(gl.MAX_TEXTURE_SIZE);
    return {
      name: "WebGL",
      upload(key, source) {
        const wide = source.naturalWidth || source.videoWidth, high = source.naturalHeight || source.videoHeight;
        if (Math.max(wide, high) > most) throw new Error("too large for this display");
        textures[key] = textures[key] || gl.createTexture();
        gl.bindTexture(gl.TEXTURE_2D, textures[key]);
        gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, source);
        for (const [name, value] of /** @type {[string, number][]} */ ([["MIN_FILTER", gl.LINEAR], ["MAG_FILTER", gl.LINEAR], ["WRAP_S", gl.REPEAT], ["WRAP_T", gl.CLAMP_TO_EDGE]])) {
          gl.texParameteri(gl.TEXTURE_2D, gl[`TEXTURE_${name}`], value);
        }
      },
      render(key, view, cell, width, height) {
        if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
        gl.viewport(0, 0, width, height);
        gl.bindTexture(gl.TEXTURE_2D, textures[key]);
        gl.uniformMatrix3fv(heads, true, head(view).flat());
        const span = Math.tan((view.fov * RAD) / 2);
        gl.uniform2f(spans, span, (span * height) / width);
        gl.uniform4fv(cells, cell);
        gl.uniform1f(reach, view.degrees / 360);
        gl.drawArrays(gl.TRIANGLES, 0, 3);
        return canvas;
      },
    };
  }

  function withPixels() {
    const canvas = document.createElement("canvas"), pen = canvas.getContext("2d");
    const reader = document.createElement("canvas"), sources = {};
    return {
      name: "plain canvas",
      upload(key, source) {
        const width = source.naturalWidth || source.videoWidth, height = source.naturalHeight || source.videoHeight;
        if (reader.width !== width || reader.height !== height) Object.assign(reader, { width, height });
        const taker = reader.getContext("2d", { willReadFrequently: true });
        taker.drawImage(source, 0, 0);
        sources[key] = { width, height, inks: new Uint32Array(taker.getImageData(0, 0, width, height).data.buffer) };
      },
      // coarse: each sample drawn stands for four, while the picture moves.
      // shown: the columns that will be seen, [from, to).
      render(key, view, cell, width, height, coarse, shown) {
        const by = coarse ? 2 : 1, wide = Math.max(Math.round(width / by), 1), high = Math.max(Math.round(height / by), 1);
        if (canvas.width !== wide || canvas.height !== high) Object.assign(canvas, { width: wide, height: high });
        const picture = pen.createImageData(wide, high), goal = new Uint32Array(picture.data.buffer);
        const { width: full, height: tall, inks } = sources[key], [[a, b, c], [d, e, f], [g, h, i]] = head(view);
        const [left, top, share, part] = [cell[0] * full, cell[1] * tall, cell[2] * full, cell[3] * tall];
        const step = (2 * Math.tan((view.fov * RAD) / 2)) / wide, around = share / (view.degrees * RAD), down = part / Math.PI;
        const isWhole = view.degrees === 360;
        const [first, end] = shown ? [Math.max(Math.floor(shown[0] / by), 0), Math.min(Math.ceil(shown[1] / by), wide)] : [0, wide];
        for (let row = 0; row < high; row++) {
          const y = (row + 0.5 - high / 2) * step;
          let at = row * wide + first;
          for (let column = first; column < end; column++) {
            const x = (column + 0.5 - wide / 2) * step;
            const wx = a * x + b * y + c, wy = d * x + e * y + f, wz = g * x + h * y + i;
            let u = Math.atan2(wx, wz) * around + share / 2;
            if (u >= share || u < 0) {
              if (!isWhole) { at++; continue; }
              u -= share;
            }
            const v = Math.acos(-wy / Math.sqrt(wx * wx + wy * wy + wz * wz)) * down;
            goal[at++] = inks[((top + (v < part ? v : part - 1)) | 0) * full + ((left + u) | 0)];
          }
        }
        pen.putImageData(picture, 0, 0);
        return canvas;
      },
    };
  }

  window.skSphere = {
    make(plain) {
      try {
        return (!plain && withGl()) || withPixels();
      } catch {
        return withPixels();
      }
    },
    // Where a direction (degrees right and up) lies in the window, in its samples; null behind.
    place(view, longitude, latitude, width, height) {
      const level = Math.cos(latitude * RAD), rows = head(view);
      const way = [level * Math.sin(longitude * RAD), -Math.sin(latitude * RAD), level * Math.cos(longitude * RAD)];
      const [x, y, z] = [0, 1, 2].map((n) => rows[0][n] * way[0] + rows[1][n] * way[1] + rows[2][n] * way[2]);
      if (z < 0.02) return null;
      const focal = width / 2 / Math.tan((view.fov * RAD) / 2);
      return [width / 2 + (x / z) * focal, height / 2 + (y / z) * focal];
    },
    // The direction (degrees right and up) at a place of the window.
    direction(view, x, y, width, height) {
      const focal = width / 2 / Math.tan((view.fov * RAD) / 2), rows = head(view);
      const way = [x - width / 2, y - height / 2, focal];
      const [a, b, c] = rows.map((row) => row[0] * way[0] + row[1] * way[1] + row[2] * way[2]);
      return [Math.atan2(a, c) / RAD, Math.asin(-b / Math.hypot(a, b, c)) / RAD];
    },
  };
})();
