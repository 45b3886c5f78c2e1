"""The page What the file says: for a master, for an export, and when the file has gone."""

from django.urls import reverse

from tests.web.base import WebCase


class FilePage(WebCase):
    def test_master(self) -> None:
        title = self.title()
        page = self.client.get(title.master.get_absolute_url())
        self.assertContains(page, "Wrapper says")
        self.assertContains(page, "moov/trak[0]/mdia/minf/stbl/stsd/avc1/colr")
        self.assertContains(page, "colour_primaries")
        self.assertContains(page, "Neither witness states")
        self.assertContains(page, f'href="{title.get_absolute_url()}"')

    def test_export_is_reached_from_its_bench(self) -> None:
        attempt = self.attempt(measured=False)
        address = attempt.reel.get_absolute_url()
        self.assertContains(self.client.get(attempt.get_absolute_url()), f'href="{address}"')
        page = self.client.get(address)
        self.assertContains(page, "Stations of the work")
        self.assertContains(page, "healthy.mp4")

    def test_what_the_picture_shows_by_itself_once_it_was_measured(self) -> None:
        attempt = self.attempt()
        for reel in (attempt.reel, attempt.delivery.title.master):
            page = self.client.get(reel.get_absolute_url())
            self.assertContains(page, "What its picture shows by itself")
            self.assertContains(page, "limited range")

    def test_a_file_that_is_gone_says_so(self) -> None:
        title = self.title()
        place = self.folder / "footage" / "master.mov"
        content = place.read_bytes()
        place.unlink()
        try:
            page = self.client.get(title.master.get_absolute_url())
            self.assertContains(page, 'role="alert"')
            self.assertNotContains(page, "Wrapper says")
        finally:
            place.write_bytes(content)

    def test_unknown_files_and_strangers(self) -> None:
        self.assertEqual(self.client.get(reverse("bench:file", args=[999])).status_code, 404)
        title = self.title()
        self.client.logout()
        answer = self.client.get(title.master.get_absolute_url())
        self.assertEqual(answer.status_code, 302)
