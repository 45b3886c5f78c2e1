"""The main way through the real pages: bring in, see what broke and why, and look."""

import re

from playwright.sync_api import expect

from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt
from tests.browser.base import BrowserCase

DRAWING_MS = 30_000


class MainWay(BrowserCase):
    def prepare(self, name: str = "untagged.mp4") -> Attempt:
        title = services.create_title("The Dial", "a note", "footage", "master.mov", by=None)
        return services.add_attempt(title, "Harbour", "footage", name, by=None)

    def test_from_login_to_the_wipe(self) -> None:
        self.prepare()
        page = self.enter()
        self.fits()
        page.get_by_role("link", name="The Dial").click()
        page.get_by_role("link", name="lost", exact=True).click()
        expect(page).to_have_title(re.compile("^lost"))
        expect(page.get_by_role("list", name="Causes")).to_contain_text("missing tag")

        row = page.locator("#trait-transfer")
        row.get_by_role("link").first.click()
        slip = row.get_by_role("region", name="Evidence for Transfer function")
        expect(slip).to_contain_text(
            "No witness states transfer function, range, primaries, matrix coefficients"
        )
        expect(slip).to_contain_text("Cure")
        expect(slip.get_by_role("img", name=re.compile("^Tone"))).to_be_visible()
        self.fits()

        slip.get_by_role("link", name=re.compile("See it in Look")).click()
        expect(page.locator(".sk-lookwords")).to_contain_text("SSIM")
        canvas = page.locator(".sk-canvas")
        box = canvas.bounding_box()
        assert box is not None
        middle = self.column_of_line()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 80)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] / 4, box["y"] + 80, steps=5)
        page.mouse.up()
        self.assertAlmostEqual(middle, 616, delta=2)
        self.assertAlmostEqual(self.column_of_line(), 306, delta=3)
        self.fits()

    def column_of_line(self) -> float:
        """Return where the wipe's line stands, read from the canvas itself."""
        return self.page.evaluate(
            """() => {
              const canvas = document.querySelector("canvas");
              const row = canvas.getContext("2d").getImageData(0, 2, canvas.width, 1).data;
              for (let x = 0; x < canvas.width; x++) {
                if (row[4*x] === 0xe9 && row[4*x+1] === 0xdc && row[4*x+2] === 0xc0) return x;
              }
              return -1;
            }"""
        )

    def test_what_the_file_says(self) -> None:
        self.prepare("healthy.mp4")
        page = self.enter()
        page.goto(f"{self.live_server_url}{Attempt.objects.get().get_absolute_url()}")
        page.get_by_role("link", name="What the file says").click()
        expect(page.get_by_role("row", name=re.compile("^Raster"))).to_contain_text("agree")
        whole = page.get_by_role("status")
        expect(whole).to_have_text(re.compile(r"^\d+ fields$"))

        page.keyboard.press("/")
        self.assertEqual(page.evaluate("document.activeElement.id"), "find")
        page.keyboard.type("transfer")
        expect(whole).to_have_text(re.compile(r"^[2-9] of \d+ fields$"))
        shown = page.locator("[data-field]:visible th")
        self.assertEqual(set(shown.all_inner_texts()), {"transfer", "transfer_characteristics"})
        page.keyboard.press("Control+a")
        page.keyboard.press("Delete")
        expect(whole).to_have_text(re.compile(r"^\d+ fields$"))

        # parts unfold by keyboard, as plain details do
        part = page.locator("summary", has_text="ftyp")
        part.focus()
        page.keyboard.press("Enter")
        expect(page.locator("th", has_text="major_brand")).to_be_visible()
        self.fits()

    def test_keyboard_reaches_it_all(self) -> None:
        self.prepare()
        page = self.enter()
        page.goto(f"{self.live_server_url}{Attempt.objects.get().get_absolute_url()}")
        page.keyboard.press("j")
        self.assertIn("transfer", page.evaluate("document.activeElement.parentElement.id"))
        page.keyboard.press("Enter")
        expect(page.locator("#trait-transfer .sk-slip")).to_be_visible()
        self.assertIn("transfer", page.evaluate("document.activeElement.parentElement.id"))
        page.keyboard.press("Enter")
        expect(page.locator("#trait-transfer .sk-slip")).to_have_count(0)
        page.goto(f"{page.url.split('?')[0].rstrip('/')}/look/")
        expect(page.locator(".sk-lookwords")).to_contain_text("SSIM")
        frame = page.get_by_role("slider", name="Frame of the export")
        before = int(frame.get_attribute("aria-valuenow") or 0)
        for key, stands in (("ArrowRight", 1), ("ArrowLeft", 0), (".", 1)):
            page.keyboard.press(key)
            expect(frame).to_have_attribute("aria-valuenow", str(before + stands))
        frame.press("Home")
        # several moments are asked for in a row, and each is drawn by a child process
        told = page.locator(".sk-lookwords")
        expect(told).to_contain_text("export 0 · SSIM", timeout=DRAWING_MS)
        frame.click(position={"x": 600, "y": 20})
        expect(told).not_to_contain_text("export 0 ", timeout=DRAWING_MS)
        page.keyboard.press("o")
        expect(page.get_by_label("Lay over")).to_have_value("thirds")
        stored = page.get_by_role("button", name="As stored")
        page.keyboard.press("i")
        expect(stored).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("i")
        expect(stored).to_have_attribute("aria-pressed", "false")
        page.keyboard.press("n")
        worst = page.locator(".sk-worst button").first.inner_text()
        expect(frame).to_have_attribute("aria-valuenow", worst)
        page.keyboard.press("b")
        expect(page.get_by_role("button", name="Side by side")).to_have_attribute(
            "aria-pressed", "true"
        )
        page.keyboard.press("p")
        place = page.locator(".sk-probe tbody td").first
        expect(place).to_contain_text(",")
        stood = place.inner_text()
        page.locator(".sk-canvas").focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(place).not_to_have_text(stood)
        page.keyboard.press("]")
        expect(place).to_contain_text("mean of")
        page.keyboard.press("[")
        expect(place).not_to_contain_text("mean of")
        page.get_by_role("button", name="Difference").click()
        expect(page.locator(".sk-lookwords")).to_contain_text("PSNR")
        page.keyboard.press("1")
        page.get_by_role("combobox", name="Display").select_option(index=1)
        expect(page.locator(".sk-foot")).to_contain_text("player that takes")

    def test_bring_in_by_hand(self) -> None:
        page = self.enter()
        page.get_by_role("link", name="Add a title").click()
        page.get_by_label("Title").fill("The Dial")
        page.get_by_role("link", name="reels/").click()
        page.get_by_role("link", name="up", exact=True).click()
        page.get_by_role("link", name="Choose master.mov").click()
        expect(page.get_by_text("footage: master.mov")).to_be_visible()
        expect(page.get_by_label("Title")).to_have_value("The Dial")  # what was typed stays
        page.get_by_role("button", name="Bring in the master").click()
        expect(page.get_by_role("heading", name="The Dial")).to_be_visible()
        page.get_by_role("link", name="Add an export").click()
        page.get_by_label("Delivery").fill("Harbour")
        page.get_by_label("or send a file").set_input_files(str(self.folder / "footage/notes.mp4"))
        page.get_by_role("button", name="Bring in the export").click()
        expect(page.get_by_role("alert")).to_contain_text("no picture file")
        page.get_by_label("or send a file").set_input_files(
            str(self.folder / "footage/healthy.mp4")
        )
        page.get_by_role("button", name="Bring in the export").click()
        expect(page).to_have_title(re.compile("^kept"), timeout=60_000)
        expect(page.get_by_text("Everything promised came through.")).to_be_visible()
        self.fits()

    def test_a_connection_that_is_lost_comes_back_by_itself(self) -> None:
        self.prepare()
        page = self.enter()
        page.get_by_role("link", name="The Dial").click()
        page.get_by_role("link", name="lost", exact=True).click()
        bar = page.get_by_text("Connection lost, trying again")
        page.wait_for_load_state("networkidle")  # scripts included: without them nothing notices
        page.context.set_offline(True)
        page.locator("#trait-transfer").get_by_role("link").first.click()
        expect(bar).to_be_visible()
        self.fits()
        page.context.set_offline(False)
        expect(bar).to_be_hidden()
        # what was asked for meanwhile is there
        slip = page.get_by_role("region", name="Evidence for Transfer function")
        expect(slip).to_be_visible()
        slip.get_by_role("link", name=re.compile("See it in Look")).click()
        words = page.locator(".sk-lookwords")
        expect(words).to_contain_text("SSIM")
        page.context.set_offline(True)
        page.locator(".sk-canvas").focus()
        page.keyboard.press(",")
        expect(bar).to_be_visible()
        page.context.set_offline(False)
        expect(bar).to_be_hidden()
        expect(words).to_contain_text("SSIM")
        known = ("ERR_INTERNET", "htmx:sendError", "htmx:afterRequest")
        self.complaints = [one for one in self.complaints if not any(w in one for w in known)]

    def test_a_file_that_cannot_be_reached_is_said_to_be_by_the_name_of_its_root(self) -> None:
        self.prepare()
        page = self.enter()
        page.get_by_role("link", name="The Dial").click()
        page.get_by_role("link", name="lost", exact=True).click()
        page.get_by_role("link", name="Look").first.click()
        expect(page.locator(".sk-lookwords")).to_contain_text("SSIM")
        footage = self.folder / "footage"
        footage.rename(self.folder / "unplugged")
        self.addCleanup((self.folder / "unplugged").rename, footage)
        page.locator(".sk-canvas").focus()
        page.keyboard.press(".")
        expect(page.locator(".sk-lookwords")).to_contain_text(
            "The media root 'footage' cannot be reached"
        )

    def test_nothing_overflows_on_a_small_screen_at_twice_the_size_or_on_a_phone(self) -> None:
        self.prepare()
        page = self.enter()
        attempt = Attempt.objects.get()
        place, title = attempt.get_absolute_url(), attempt.delivery.title
        places = (
            "/",
            title.get_absolute_url(),
            f"{place}?open=transfer",
            f"{place}look/",
            attempt.reel.get_absolute_url(),
            f"{attempt.reel.get_absolute_url()}tags/",
            f"{place}table/",
            attempt.delivery.get_absolute_url(),
            f"/title/{title.pk}/plan/",
            f"/title/{title.pk}/add-export/",
            f"/title/{title.pk}/promise/",
            f"{place}sign-off/",
            f"/title/{title.pk}/watch/",
            *("/specifications/", "/arrived/", "/news/", "/account/tokens/"),
        )
        # 640×400 is 1280×800 at 200 %
        for width, height in ((1024, 700), (640, 400), (390, 844)):
            page.set_viewport_size({"width": width, "height": height})
            for one in places:
                page.goto(f"{self.live_server_url}{one}")
                with self.subTest(f"{width} {one}"):
                    self.fits()

    def test_tags_are_previewed_and_written_by_keys_alone(self) -> None:
        reel = self.prepare().reel
        page = self.enter()
        page.goto(f"{self.live_server_url}{reel.get_absolute_url()}")
        page.get_by_role("link", name="Correct tags").press("Enter")
        preview = page.locator("#preview")
        expect(preview).to_contain_text("Nothing is chosen yet")
        page.get_by_label("Colours as one").press("S")  # SDR, BT.709
        expect(
            preview.get_by_role("row", name=re.compile("^Transfer function wrapper"))
        ).to_contain_text("BT.709")
        page.get_by_label("wide").fill("one")
        page.get_by_label("high").press("Tab")
        expect(preview).to_contain_text("“one” is no number")
        page.get_by_label("wide").fill("")
        page.get_by_label("wide").press("Tab")
        self.fits()
        preview.get_by_role("button", name="Write the corrected copy").press("Enter")
        expect(page.get_by_role("link", name="attempt 2")).to_be_visible()
        page.get_by_role("link", name="attempt 2").click()
        expect(page.get_by_text("byte for byte")).to_be_visible()
        self.fits()

    def test_families_unfold_and_themes_change(self) -> None:
        self.prepare("healthy.mp4")
        page = self.enter()
        page.goto(f"{self.live_server_url}{Attempt.objects.get().get_absolute_url()}")
        family = page.get_by_role("region", name="shape")
        expect(family.locator("#trait-raster")).to_be_hidden()
        family.locator("summary").click()
        expect(family.locator("#trait-raster")).to_be_visible()
        page.get_by_role("button", name="Light theme").click()
        self.assertEqual(
            page.evaluate("getComputedStyle(document.body).backgroundColor"), "rgb(236, 236, 236)"
        )
        page.reload()
        theme = "document.documentElement.dataset.theme"
        self.assertEqual(page.evaluate(theme), "light")
        # Until one is chosen, the system's is followed, while it changes too.
        page.evaluate("localStorage.removeItem('sk-chosen-theme')")
        page.reload()
        for scheme in ("dark", "light", "dark"):
            page.emulate_media(color_scheme=scheme)
            words = "Light theme" if scheme == "dark" else "Dark theme"
            expect(page.get_by_role("button", name=words)).to_be_visible()
            self.assertEqual(page.evaluate(theme), scheme)

    def test_colours_of_the_page_are_neutral_and_legible(self) -> None:
        self.prepare()
        page = self.enter()
        for theme in ("dark", "light"):
            page.evaluate(f"localStorage.setItem('sk-chosen-theme', '{theme}')")
            page.reload()
            tokens = page.evaluate(
                """() => {
                  const style = getComputedStyle(document.documentElement);
                  const names = "page sheet raised text quiet accent bent lost surround".split(" ");
                  const value = (name) => style.getPropertyValue("--sk-" + name).trim();
                  return Object.fromEntries(names.map((name) => [name, value(name)]));
                }"""
            )
            light = {name: _luminance(value) for name, value in tokens.items()}
            for name in ("page", "sheet", "raised", "text", "quiet", "surround"):
                value = tokens[name].lstrip("#")
                self.assertEqual(len({value[:2], value[2:4], value[4:]}), 1, (theme, name))
            for ink in ("text", "quiet", "accent", "bent", "lost"):
                for ground in ("page", "sheet"):
                    # WCAG 2.1, 1.4.3: 4.5:1 for text
                    self.assertGreaterEqual(
                        _contrast(light[ink], light[ground]), 4.5, (theme, ink, ground)
                    )


def _luminance(value: str) -> float:
    """Return the relative luminance of an sRGB colour (WCAG 2.1 definition)."""
    parts = [int(value.lstrip("#")[i : i + 2], 16) / 255 for i in (0, 2, 4)]
    linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def _contrast(one: float, other: float) -> float:
    high, low = max(one, other), min(one, other)
    return (high + 0.05) / (low + 0.05)
