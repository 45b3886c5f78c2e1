"""Files dropped on the window, and a new user's way to the first verdict."""

import base64

from playwright.sync_api import expect

from shapkeen.web.library.models import Attempt, Title
from tests.browser.base import BrowserCase

DROP = """([files, where]) => {
  const held = new DataTransfer();
  for (const [name, text] of files) {
    const bytes = Uint8Array.from(atob(text), (sign) => sign.charCodeAt(0));
    held.items.add(new File([bytes], name));
  }
  for (const kind of ["dragover", "drop"]) {
    document.querySelector(where).dispatchEvent(
      new DragEvent(kind, { dataTransfer: held, bubbles: true, cancelable: true }));
  }
}"""


class Arriving(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.page.set_default_timeout(120_000)  # here a survey is measured within the request
        self.enter()
        # What is dropped on the page before, while it goes away, is dropped on nothing.
        expect(self.page.get_by_role("heading", name="Titles")).to_be_visible()
        self.page.wait_for_load_state("load")

    def drop(self, *names: str) -> None:
        files = []
        for name in names:
            data = (self.folder / "footage" / name).read_bytes()
            files.append([name.rpartition("/")[2], base64.b64encode(data).decode()])
        self.page.evaluate(DROP, [files, "main"])

    def test_what_is_dropped_becomes_a_title_with_its_exports(self) -> None:
        page = self.page
        expect(
            page.get_by_role("heading", name="From a master to its first verdict")
        ).to_be_visible()
        self.fits()
        self.drop("master.mov", "untagged.mp4", "readme.txt")
        page.wait_for_url("**/arrived/")
        expect(page.get_by_label("What untagged.mp4 is")).to_have_value("export")
        expect(page.get_by_label("What master.mov is")).to_have_value("master")
        self.fits()
        page.get_by_label("Title of master.mov").fill("The Dial")
        page.get_by_label("Title of untagged.mp4").fill("The Dial")
        page.get_by_label("Delivery of untagged.mp4").fill("Harbour")
        page.get_by_role("button", name="Bring in as told").click()
        page.wait_for_url("**/title/*/")
        expect(page.get_by_role("heading", name="The Dial")).to_be_visible()
        self.assertEqual(Attempt.objects.get().delivery.name, "Harbour")

    def test_what_is_no_picture_is_not_sent(self) -> None:
        self.drop("readme.txt")
        expect(self.page.get_by_text("No picture file is among them")).to_be_visible()
        self.page.keyboard.press("Escape")
        self.drop("notes.mp4")
        self.page.wait_for_url("**/arrived/")
        expect(self.page.locator(".sk-arrivals .sk-error")).to_be_visible()
        self.assertFalse(Title.objects.exists())

    def test_a_new_user_comes_from_nothing_to_the_reason_of_a_fault(self) -> None:
        self.page.get_by_role("button", name="Try it with a sample pair").click()
        expect(self.page.get_by_text("gamut converted").first).to_be_visible(timeout=120_000)
        pictures = self.page.locator(".sk-causepair img")
        expect(pictures).to_have_count(2)
