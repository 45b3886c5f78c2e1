"""Looking around a sphere and sliding convergence, in the headless browser without a display.

Milliseconds a picture, and as a ratio to copying as many bytes. With a display WebGL is far faster.
Usage: python -m benchmarks.look
"""

import shutil
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

PARTS = Path(__file__).parent.parent / "shapkeen/web/static/js/parts"
SWITCHES = ("--no-sandbox", "--enable-unsafe-swiftshader")
PREPARE = """async () => {
  const canvas = document.createElement("canvas");
  Object.assign(canvas, { width: 1600, height: 800 });
  const pen = canvas.getContext("2d");
  for (let n = 0; n < 4000; n++) {
    pen.fillStyle = `hsl(${n * 37 % 360} 60% ${20 + n % 60}%)`;
    pen.fillRect(n * 97 % 1600, n * 61 % 800, 40, 30);
  }
  window.picture = new Image();
  picture.src = canvas.toDataURL();
  await picture.decode();
  window.goal = document.createElement("canvas");
  Object.assign(goal, { width: 1224, height: 390 });
  document.body.append(goal);
  window.middle = (times) => times.sort((a, b) => a - b)[times.length >> 1];
  window.timed = (draw) => {
    const times = [];
    for (let n = 0; n < 40; n++) {
      const from = performance.now();
      draw(n);
      times.push(performance.now() - from);
    }
    return middle(times);
  };
}"""
COPY = """() => {
  const from = new Uint8Array(1224 * 390 * 4).fill(7), to = new Uint8Array(from.length);
  return timed(() => { for (let n = 0; n < 20; n++) to.set(from); }) / 20;
}"""
AROUND = """(plain) => {
  const sphere = skSphere.make(plain), pen = goal.getContext("2d");
  sphere.upload("master", picture);
  sphere.upload("export", picture);
  const draw = (coarse) => timed((n) => ["master", "export"].forEach((side, at) => {
    const view = { yaw: n * 9 - 180, pitch: n - 20, fov: 90 };
    const seen = sphere.render(side, view, [0, 0, 1, 1], 610, 390, coarse);
    pen.drawImage(seen, at * 614, 0, 610, 390);
  }));
  return [sphere.name, draw(true), draw(false)];
}"""
GLASSES = """(pair) => {
  const cells = [[0, 0, 0.5, 1], [0.5, 0, 0.5, 1]];
  const [left, right] = cells.map((cell) => skGlasses.linear(picture, cell, 736, 414));
  const pen = goal.getContext("2d"), made = pen.createImageData(736, 414);
  return timed((n) => {
    skGlasses.blend(left, right, 736, 414, n - 20, made.data, pair);
    pen.putImageData(made, 0, 0);
  });
}"""
PAIR = {
    "left": [[0.437, 0.449, 0.164], [-0.062, -0.062, -0.024], [-0.048, -0.05, -0.017]],
    "right": [[-0.011, -0.032, -0.007], [0.377, 0.761, 0.009], [-0.026, -0.093, 1.234]],
}


def measure(page: Page) -> None:
    """Print what each picture takes."""
    page.set_content("<body></body>")
    for name in ("sphere.js", "glasses.js"):
        page.add_script_tag(path=PARTS / name)
    page.evaluate(PREPARE)
    copy = page.evaluate(COPY)
    print(f"copying the canvas's bytes: {copy:.2f} ms")
    for plain in (False, True):
        name, moving, still = page.evaluate(AROUND, plain)
        print(
            f"around, {name}: {moving:.1f} ms while it moves ({1000 / moving:.0f} a second), "
            f"{still:.1f} ms at rest; ÷ copying {moving / copy:.0f}"
        )
    glasses = page.evaluate(GLASSES, PAIR)
    print(f"convergence, glasses: {glasses:.1f} ms (goal 50); ÷ copying {glasses / copy:.0f}")


def main() -> None:
    with sync_playwright() as playwright:
        path = shutil.which("chromium") or "/usr/bin/chromium"
        browser = playwright.chromium.launch(executable_path=path, args=list(SWITCHES))
        measure(browser.new_page())
        browser.close()


if __name__ == "__main__":
    main()
