"""A silent master: asked about once, on its title's page; every delivery is judged by that."""

import shutil
from dataclasses import replace

from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt, Title
from tests.builders import media
from tests.builders.media import SDR, write
from tests.web.base import WebCase

HTMX = {"HX-Request": "true"}
ANSWER = {"transfer": "1", "primaries": "1", "matrix": "1", "range": "limited"}


class SilentMaster(WebCase):
    def silent(self) -> Attempt:
        planes = media.sdr_planes("astronaut")
        silent = replace(SDR, colour=None, ending=".mov")
        shutil.copy(write("silent", planes, silent), self.folder / "footage" / "silent.mov")
        title = services.create_title("Silent", "", "footage", "silent.mov", by=self.user)
        attempt = services.add_attempt(title, "Harbour", "footage", "untagged.mp4", by=self.user)
        self.run_job(attempt)
        return Attempt.objects.with_context().get(pk=attempt.pk)

    def test_it_is_asked_once_with_the_likely_answer_and_its_reason(self) -> None:
        attempt = self.silent()
        title = attempt.delivery.title
        place = f"/title/{title.pk}/silence/"
        self.assertContains(self.client.get(title.get_absolute_url()), place)
        asked = self.client.get(place, headers=HTMX)
        self.assertContains(asked, "The master does not state its transfer function, primaries")
        self.assertContains(asked, "360 lines")
        self.assertContains(asked, "of its samples lie outside limited range")
        self.assertContains(asked, '<option value="limited" selected>limited</option>', html=True)
        bench = self.client.get(attempt.get_absolute_url())
        self.assertContains(bench, "The master does not state what it is")

    def test_the_answer_is_promised_to_every_delivery_with_who_said_it(self) -> None:
        attempt = self.silent()
        title = attempt.delivery.title
        self.assertNotIn("tag-missing", {c.id for c in self.causes(attempt)})
        answer = self.client.post(f"/title/{title.pk}/silence/", ANSWER)
        self.assertRedirects(answer, f"{title.get_absolute_url()}#master")
        self.run_job(attempt)  # its samples are read otherwise than before
        self.assertEqual([c.id for c in self.causes(attempt)], ["tag-missing"])
        kept = Attempt.objects.with_context().get(pk=attempt.pk).judgement.kept()
        self.assertIn("said of the silent master by ada", kept.promise.traits["matrix"].origin)
        page = self.client.get(f"/title/{title.pk}/silence/", headers=HTMX)
        self.assertContains(page, "Said of the silent master by ada")
        self.client.post(f"/title/{title.pk}/silence/", {"again": "1"})
        self.assertEqual(Title.objects.get(pk=title.pk).answers_text, "")

    def causes(self, attempt: Attempt):
        judged = Attempt.objects.with_context().get(pk=attempt.pk).judgement
        return judged.kept().survival.causes

    def test_what_cannot_be_is_not_noted(self) -> None:
        title = self.silent().delivery.title
        self.client.post(f"/title/{title.pk}/silence/", ANSWER | {"matrix": "77"})
        self.assertEqual(Title.objects.get(pk=title.pk).answers_text, "")

    def test_a_master_that_speaks_is_asked_nothing(self) -> None:
        title = self.title()
        self.assertNotContains(self.client.get(title.get_absolute_url()), "/silence/")
