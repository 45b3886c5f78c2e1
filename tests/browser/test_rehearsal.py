"""Rehearsing in a real browser: the door, the wheel of time, received pictures."""

from playwright.sync_api import expect

from shapkeen.web.library import services
from tests.browser.base import BrowserCase

ONE_COLUMN = """() => {
  const canvas = document.querySelector(".sk-canvas");
  const row = canvas.getContext("2d").getImageData(0, canvas.height / 2, canvas.width, 1).data;
  return [...row].filter((_, i) => i % 4 === 1);
}"""


class Rehearsing(BrowserCase):
    def test_from_the_door_to_the_received_picture(self) -> None:
        title = services.create_title("The Dial", "", "footage", "master.mov", by=None)
        attempt = services.add_attempt(title, "Harbour", "footage", "healthy.mp4", by=None)
        page = self.enter()
        page.goto(f"{self.live_server_url}/attempt/{attempt.pk}/")
        page.get_by_role("link", name="Rehearse", exact=True).click()
        expect(page.get_by_role("row", name="Beacon Broadcast")).to_contain_text("refused")
        self.fits()
        # Here work is done while the answer is waited for.
        page.get_by_role("button", name="Rehearse, Tidewater Club").click(timeout=120_000)
        expect(page.get_by_role("heading", name="What viewers see")).to_be_visible()
        expect(page.locator(".sk-seen img")).to_have_count(8)
        self.fits()
        # The wheel by keys: at its beginning nothing is there yet, and no page is loaded anew.
        page.evaluate("document.body.dataset.mark = 'here'")
        page.get_by_label("Time since the upload").focus()
        page.keyboard.press("Home")
        expect(page.locator(".sk-nothingyet")).to_have_count(8)
        page.get_by_role("link", name="tomorrow").click()
        expect(page.locator(".sk-seen img")).to_have_count(8)
        self.assertEqual(page.evaluate("document.body.dataset.mark"), "here")
        self.assertGreater(int(page.get_by_label("Time since the upload").input_value()), 150)
        expect(page.locator("#cost")).to_contain_text("ways, about")
        page.wait_for_load_state("networkidle")  # pictures that are let go of break pipes
        page.locator(".sk-seen a").nth(2).click()
        self.looked_at(page)

    def looked_at(self, page) -> None:
        words = page.locator(".sk-scrub output")
        expect(words).to_contain_text("SSIM")
        expect(words).not_to_contain_text("drawing")
        before = page.evaluate(ONE_COLUMN)
        page.keyboard.press("v")
        expect(page.get_by_role("button", name="Whole window")).to_have_attribute(
            "aria-pressed", "true"
        )
        large = page.evaluate(ONE_COLUMN)
        self.assertGreater(len(large), len(before))
        page.keyboard.press("Escape")
        # Both play in step, once their film is there, and stop where a frame is stepped to.
        expect(words).not_to_contain_text("drawing")
        page.wait_for_function(
            "() => performance.getEntriesByType('resource').some((e) => e.name.includes('/pair/'))"
        )
        page.keyboard.press(" ")
        expect(page.get_by_role("button", name="Play")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press(",")
        expect(page.get_by_role("button", name="Play")).to_have_attribute("aria-pressed", "false")
        page.locator("[x-ref=screen]").select_option("phone-upright")
        expect(words).not_to_contain_text("drawing")
        self.fits()
