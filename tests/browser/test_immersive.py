"""Looking around a sphere and through both eyes, with mouse and keys, in a real browser."""

import base64
import re
import shutil

import cv2
import numpy as np
from playwright.sync_api import expect

from shapkeen.core.colour.anaglyph import RED_CYAN, ghosting
from shapkeen.core.colour.sdr import srgb_light_from_signal
from shapkeen.core.geometry.sphere import Turn, places, window_directions
from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt
from tests.browser.base import BrowserCase
from tests.builders.boxes import flagged
from tests.builders.eyes import eyes_frames, packed
from tests.builders.media import SDR, write
from tests.builders.spheres import cut, sphere_planes

READ = """() => document.querySelector(".sk-canvas").toDataURL("image/png")"""
PIECE = re.compile(r"/proxy/([0-9]+)/")
WHOLE = "equirectangular"
FETCH = """(path) => new Promise((resolve) => {
  const picture = new Image();
  picture.onload = () => {
    const canvas = document.createElement("canvas");
    Object.assign(canvas, { width: picture.naturalWidth, height: picture.naturalHeight });
    canvas.getContext("2d").drawImage(picture, 0, 0);
    resolve(canvas.toDataURL("image/png"));
  };
  picture.src = path;
})"""


class RoundPages(BrowserCase):
    def prepare(self, name: str, planes, **layout: str) -> Attempt:
        made = flagged(write(f"browser-{name}", planes, SDR), **layout)
        for copy in (f"{name}-master.mp4", f"{name}.mp4"):
            shutil.copy(made, self.folder / "footage" / copy)
        title = services.create_title(name, "", "footage", f"{name}-master.mp4", by=None)
        return services.add_attempt(title, "Harbour", "footage", f"{name}.mp4", by=None)

    def read(self, script: str = READ, *more: str) -> np.ndarray:
        """Return a canvas, or a picture of the server, as it is: (row, column, 3)."""
        data = base64.b64decode(self.page.evaluate(script, *more).partition(",")[2])
        return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1]

    def open(self, name: str, address: str) -> None:
        page = self.page
        page.get_by_role("link", name=name).click()
        place = page.get_by_role("link", name=re.compile("kept|lost|bent|unproven")).first
        base = place.get_attribute("href") or ""
        page.goto(f"{self.live_server_url}{re.match(r'/attempt/[0-9]+/', base)[0]}{address}")

    def test_looking_around_a_sphere(self) -> None:
        self.prepare("Room", sphere_planes(), projection="equirectangular")
        page = self.enter()
        self.open("Room", "look/")
        page.get_by_role("link", name="Around").click()
        expect(page.get_by_text("Looking straight ahead · field of view 90°")).to_be_visible()
        self.fits()
        canvas = page.locator(".sk-canvas")
        box = canvas.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 300, box["y"] + 200)
        page.mouse.down()
        page.mouse.move(box["x"] + 100, box["y"] + 200, steps=4)
        page.mouse.up()
        # 200 of 610 samples of a window of 90 degrees
        expect(page.get_by_text(re.compile("Looking (29|30)° right"))).to_be_visible()
        page.mouse.wheel(0, -200)
        expect(page.get_by_text("field of view 83°")).to_be_visible()
        canvas.focus()
        for key in ("0", "ArrowLeft", "ArrowUp", "-"):
            page.keyboard.press(key)
        expect(page.get_by_text("Looking 3° left, 3° up · field of view 100°")).to_be_visible()
        page.get_by_role("button", name="Seam").click()
        expect(page.get_by_text("Looking 180° right")).to_be_visible()
        page.keyboard.press("b")
        wipe = page.get_by_role("button", name="Wipe")
        expect(wipe).to_have_attribute("aria-pressed", "true")
        page.get_by_role("button", name="Play").click()
        expect(page.get_by_role("button", name="Play")).to_have_attribute("aria-pressed", "true")
        expect(page.locator(".sk-lookwords")).to_contain_text("master 7")

    def test_playing_goes_on_from_piece_to_piece(self) -> None:
        # a proxy holds four seconds: 130 frames at 24 a second need two
        self.prepare("Long", sphere_planes(size=(256, 128), count=130), projection=WHOLE)
        page = self.enter()
        self.open("Long", "look/around/?frame=60")
        words = page.locator(".sk-lookwords")
        expect(words).to_contain_text("export 60")
        asked: list[int] = []
        page.on("request", lambda request: asked.extend(map(int, PIECE.findall(request.url))))
        page.locator(".sk-canvas").focus()
        for _ in range(42):
            page.keyboard.press(",")
        expect(words).to_contain_text("export 18")
        page.get_by_role("button", name="Play").click()
        expect(words).to_contain_text("master 129 · export 129", timeout=60_000)
        expect(page.get_by_role("button", name="Play")).to_have_attribute("aria-pressed", "false")
        self.assertEqual(asked, [0, 96])  # pieces begin at even places, wherever one starts

    def test_two_fingers_change_the_field_of_view(self) -> None:
        self.prepare("Room", sphere_planes(), projection="equirectangular")
        page = self.enter()
        self.open("Room", "look/around/")
        expect(page.get_by_text("field of view 90°")).to_be_visible()
        box = page.locator(".sk-canvas").bounding_box()
        assert box is not None
        fingers = page.context.new_cdp_session(page)

        def touch(kind: str, *places: float) -> None:
            points = [
                {"x": box["x"] + x, "y": box["y"] + 150, "id": number}
                for number, x in enumerate(places)
            ]
            fingers.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

        touch("touchStart", 200)
        touch("touchStart", 200, 300)
        for apart in (110, 130, 150, 180):
            touch("touchMove", 200, 200 + apart)
        touch("touchEnd")
        expect(page.get_by_text("field of view 50°")).to_be_visible()  # 90° × 100 ÷ 180

    def test_half_a_sphere_ends_beside_the_viewer(self) -> None:
        self.prepare("Half", cut(sphere_planes(), across=4))
        page = self.enter()
        for more in ("", "?plain"):
            self.open("Half", f"look/around/{more}")
            with self.subTest(more):
                # 384 samples across 180 degrees
                expect(page.get_by_text("2.1 samples a degree")).to_be_visible()
                page.get_by_role("button", name="Guides").click()
                expect(page.get_by_role("button", name="Seam")).to_have_count(0)
                page.locator(".sk-canvas").focus()
                ahead = self.read()[40:340, 640:1200]
                for _ in range(3):
                    page.keyboard.press("Shift+ArrowRight")
                page.wait_for_timeout(500)
                aside = self.read()[40:340, 640:1200]
                # 60° right: what is more than 30° from there is past the edge, at 77 % of the half
                self.assertGreater(np.ptp(ahead[:, 500:].mean(axis=2)), 30)
                self.assertLess(np.ptp(aside[:, 520:].mean(axis=2)), 3)
                self.assertGreater(np.ptp(aside[:, :300].mean(axis=2)), 30)

    def test_a_plain_canvas_shows_what_the_formulas_say(self) -> None:
        self.prepare("Room", sphere_planes(), projection="equirectangular")
        page = self.enter()
        self.open("Room", "look/around/?plain&frame=3")
        expect(page.get_by_text("plain canvas")).to_be_visible()
        page.get_by_role("button", name="Guides").click()
        page.locator(".sk-canvas").focus()
        for key in ("ArrowRight", "ArrowRight", "ArrowUp"):
            page.keyboard.press(key)
        page.wait_for_timeout(400)
        shown = self.read()[:360, 614 + 4 :, 1].astype(int)
        address = f"{page.url.split('/look')[0]}/still/export/3/plain.png"
        whole = self.read(FETCH, address)[..., 1].astype(np.float32)
        ways = window_directions((610, 390), 90, Turn(yaw=6, pitch=3))
        columns, rows = places(ways, (whole.shape[1], whole.shape[0]))
        maps = columns.astype(np.float32), rows.astype(np.float32)
        drawn = cv2.remap(whole, *maps, cv2.INTER_NEAREST, borderMode=cv2.BORDER_WRAP)
        apart = np.abs(shown[:, :600] - drawn[:360, 4:604])
        self.assertLess(np.percentile(apart, 75), 8)  # the nearest of two samples may differ

    def test_sliding_convergence_through_coloured_glasses(self) -> None:
        self.prepare("Gears", packed(eyes_frames("coffee")), stereo="left-right")
        page = self.enter()
        self.open("Gears", "look/")
        page.get_by_role("link", name="Both eyes").click()
        expect(page.get_by_text(re.compile("in front of the screen"))).to_be_visible()
        self.fits()
        words = page.get_by_text(re.compile("^Ghosting"))
        expect(words).to_be_visible()
        told = [float(x) for x in re.findall(r"([\d.]+) %", words.inner_text())]
        frame = int(re.search(r"export (\d+)", page.locator(".sk-lookwords").inner_text())[1])
        address = f"{page.url.split('/look')[0]}/still/export/{frame}/plain.png"
        whole = self.read(FETCH, address)
        eyes = [
            np.asarray(srgb_light_from_signal(cv2.resize(eye, (736, 414)) / 255))
            for eye in (whole[:, : whole.shape[1] // 2], whole[:, whole.shape[1] // 2 :])
        ]
        for one, other in zip(told, ghosting(*eyes, RED_CYAN), strict=False):
            self.assertAlmostEqual(one, other * 100, delta=0.4)
        before = self.read()
        page.locator(".sk-canvas").focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(page.get_by_text("+0.50 % of width")).to_be_visible()
        page.wait_for_timeout(200)
        self.assertGreater(np.abs(self.read().astype(int) - before).mean(), 1)
        group = page.locator("#parallax [data-scale]").first
        moved = float(re.search(r"translate\(([\d.]+)", group.get_attribute("transform") or "")[1])
        scale = float(group.get_attribute("data-scale") or 0)
        self.assertAlmostEqual(moved, scale * 0.5, delta=0.02)
        page.get_by_label("Screen").fill("10")
        page.get_by_label("Screen").press("Tab")
        expect(page.locator("#parallax")).to_contain_text("+0.65 %")
        page.locator(".sk-canvas").focus()
        page.keyboard.press("x")
        expect(page.get_by_text("Eyes exchanged: viewers get them the other way")).to_be_visible()
        page.get_by_role("button", name="Exchange eyes").click()
        expect(page.get_by_text("Eyes exchanged")).to_be_hidden()
        page.get_by_label("Show").select_option("difference")
        page.get_by_role("button", name="Keep as the promise").click()
        expect(page.locator(".sk-note")).to_contain_text("Convergence +0.50 % is promised")
