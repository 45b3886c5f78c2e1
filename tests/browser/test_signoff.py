"""Sign-off in the browser: through a link, in the picture, and a report with the network off."""

import shutil
from pathlib import Path

from django.urls import reverse
from playwright.sync_api import expect

from shapkeen.core.reported.report import TitleReport, written
from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt
from shapkeen.web.reports.services import report_on
from shapkeen.web.signoff import digests
from tests.browser.base import BrowserCase


class Reviewing(BrowserCase):
    def own(self, name: str) -> Attempt:
        """Return a measured attempt on a file of its own, digests taken."""
        path = self.folder / "footage" / f"own-{name}"
        shutil.copy(self.folder / "footage" / name, path)
        title = services.create_title("The Dial", "", "footage", "master.mov", by=None)
        made = services.add_attempt(title, "Harbour", "footage", path.name, by=None)
        attempt = Attempt.objects.with_context().get(pk=made.pk)
        digests.wanted(attempt, digests.both(attempt))
        return attempt

    def test_a_reviewer_signs_through_a_link_and_one_byte_is_seen(self) -> None:
        attempt = self.own("healthy.mp4")
        self.enter()
        self.page.goto(self.live_server_url + reverse("signoff:signoff", args=[attempt.pk]))
        self.page.get_by_label("For", exact=True).fill("colour")
        self.page.get_by_label("may sign or refuse").check()
        self.page.get_by_role("button", name="Make a link").click()
        address = self.page.locator(".sk-address").inner_text()
        guest = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(guest.close)
        page = guest.new_page()
        page.goto(address)
        expect(page.get_by_text("Everything promised came through")).to_be_visible()
        page.get_by_role("link", name="Look").click()
        expect(page.locator(".sk-lookwords")).to_contain_text("SSIM")
        page.keyboard.press("m")
        page.locator(".sk-canvas").click(position={"x": 600, "y": 200})
        page.get_by_label("Remark", exact=True).fill("as in the grade")
        page.get_by_role("button", name="Say it").click()
        expect(page.locator("#remarks li")).to_contain_text("as in the grade")
        remark = attempt.remarks.get()
        self.assertTrue(0.2 < remark.x < 0.8 and 0.1 < remark.y < 0.9, (remark.x, remark.y))
        page.get_by_role("link", name="Sign-off").click()
        page.get_by_role("button", name="Sign as colour").click()
        expect(page.get_by_text("are what was signed")).to_be_visible()
        path = attempt.reel.locate()
        with path.open("r+b") as file:
            file.seek(-1, 2)
            file.write(b"\xff")
        self.page.goto(self.live_server_url + attempt.get_absolute_url())
        expect(self.page.locator(".sk-signed")).to_contain_text("No longer what was signed")

    def test_keys_reach_a_remark_and_what_is_closed_is_not_drawn(self) -> None:
        attempt = self.own("healthy.mp4")
        self.enter()
        self.page.goto(self.live_server_url + reverse("look:look", args=[attempt.pk]))
        expect(self.page.locator(".sk-lookwords")).to_contain_text("SSIM")
        self.page.keyboard.press("m")
        self.page.get_by_label("Remark", exact=True).fill("of the whole picture")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("#remarks li")).to_contain_text("of the whole picture")
        self.assertIsNone(attempt.remarks.get().x)
        self.page.get_by_role("button", name="close", exact=True).click()
        expect(self.page.locator("#remarks li")).to_contain_text("closed by")

    def test_a_report_shows_all_of_itself_with_the_network_off(self) -> None:
        attempt = self.own("untagged.mp4")
        report = report_on(attempt)
        path = Path(self.folder) / "report.html"
        path.write_bytes(written(TitleReport("A report", (report,)), "html"))
        offline = self.browser.new_context(offline=True)
        self.addCleanup(offline.close)
        page, asked, told = offline.new_page(), [], []
        page.on("request", lambda one: asked.append(one.url[:60]))
        page.on("console", lambda one: told.append(one.text))
        page.goto(path.as_uri())
        expect(page.locator("h1")).to_contain_text("lost")
        expect(page.locator(".pair")).to_be_visible()
        outside = [url for url in asked if not url.startswith(("data:", "file:"))]
        self.assertEqual((outside, told), ([], []))
        loaded = "[...document.images].every((one) => one.complete && one.naturalWidth > 100)"
        self.assertTrue(page.evaluate(loaded))
        faces = "[...document.fonts].filter((one) => one.status === 'loaded').length"
        self.assertGreater(page.evaluate(faces), 1)
        stroke = "getComputedStyle(document.querySelector('.sk-thread.lost .ink.mark')).stroke"
        self.assertEqual(page.evaluate(stroke), "rgb(179, 38, 30)")

    def test_archive_and_people_pages_hold_what_they_say(self) -> None:
        attempt = self.own("healthy.mp4")
        self.enter()
        self.page.goto(self.live_server_url + reverse("archive:listing"))
        self.page.get_by_label("The Dial").check()
        expect(self.page.locator("#estimate")).to_contain_text("left out")
        self.assertIn("the-dial-", self.page.get_by_label("Name of the folder").input_value())
        self.page.get_by_role("button", name="Write the archive").click()
        expect(self.page.get_by_text("Every file read back as it was written")).to_be_visible()
        self.page.goto(self.live_server_url + reverse("accounts:people"))
        expect(self.page.get_by_role("heading", name="What a role may do")).to_be_visible()
        self.page.goto(self.live_server_url + reverse("bench:differ", args=[attempt.pk]))
        expect(self.page.get_by_text("no other attempt of this title")).to_be_visible()
