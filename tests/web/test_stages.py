"""Three stages on the Bench: what headers decide, a first look, and every frame."""

from unittest import mock

from shapkeen.web.bench import surveying
from shapkeen.web.bench.models import Survey
from shapkeen.web.library.models import Attempt
from shapkeen.web.work.errors import StoppedError
from tests.web.base import WebCase


class Stages(WebCase):
    def page(self, attempt: Attempt) -> str:
        return self.client.get(attempt.get_absolute_url()).content.decode()

    def fresh(self, attempt: Attempt) -> Attempt:
        return Attempt.objects.with_context().get(pk=attempt.pk)

    def ready(self, attempt: Attempt) -> str | None:
        answer = self.client.get(f"/attempt/{attempt.pk}/ready/")
        self.assertEqual(answer.status_code, 204)
        return answer.headers.get("HX-Refresh")

    def test_one_after_the_other(self) -> None:
        attempt = self.attempt(measured=False)
        waiting = self.page(attempt)
        self.assertIn("what headers alone decide", waiting)
        self.assertIn("Waiting for a worker", waiting)
        self.assertIsNone(self.ready(attempt))
        whole = surveying._measure

        def stopped(job, attempt, *, quick=False):
            if not quick:
                raise StoppedError
            whole(job, attempt, quick=True)

        with (
            mock.patch.object(surveying, "is_long", return_value=True),
            mock.patch.object(surveying, "_measure", stopped),
        ):
            self.run_job(attempt)
        self.assertEqual(self.ready(attempt), "true")
        looked = self.page(attempt)
        self.assertEqual(self.fresh(attempt).judgement.stage, "first-look")
        for words in ("First look", "provisional", "Measure every frame", "sought out"):
            self.assertIn(words, looked)
        self.client.post(f"/attempt/{attempt.pk}/measure/")
        self.run_job(attempt)
        self.assertEqual(self.fresh(attempt).judgement.stage, "whole")
        self.assertNotIn("provisional", self.page(attempt))
        self.assertEqual([survey.stage for survey in Survey.objects.all()], ["whole"])

    def test_short_clips_are_measured_whole_at_once(self) -> None:
        self.assertFalse(surveying.is_long(self.attempt(measured=False)))
