"""Judgements: which promise and which files they belong to, when they are out of date, and that a
changed promise is judged at once from what was measured."""

import json
import os
from unittest import mock

from django.utils import timezone

from shapkeen.web.bench import recent, services, surveying
from shapkeen.web.bench.models import Judgement, Survey, SurveySeries
from shapkeen.web.library.models import Attempt, Delivery
from shapkeen.web.library.services import change_promise, create_title, read_own
from shapkeen.web.work.errors import FaultError
from shapkeen.web.work.models import Job
from tests.web.base import WebCase


def promise(**traits: object) -> str:
    wanted = {name: {"value": value} for name, value in traits.items()}
    return json.dumps({"schema": "shapkeen.promise/1", "traits": wanted})


class Judging(WebCase):
    def fresh(self, attempt: Attempt) -> Attempt:
        return Attempt.objects.with_context().get(pk=attempt.pk)

    def page(self, attempt: Attempt) -> str:
        return self.client.get(attempt.get_absolute_url()).content.decode()

    def test_a_changed_promise_is_judged_at_once_without_decoding(self) -> None:
        attempt = self.attempt()
        before = attempt.judgement
        with mock.patch.object(surveying, "run_child", side_effect=AssertionError):
            change_promise(attempt.delivery, promise(frame_rate=[25, 1]), by=self.user)
        judged = self.fresh(attempt)
        self.assertEqual((judged.judgement.overall, judged.out_of_date), ("lost", []))
        self.assertEqual(judged.judgement.survey_id, before.survey_id)
        self.assertNotEqual(judged.judgement.promise_digest, before.promise_digest)
        self.assertEqual(Job.objects.of(Attempt.WORK, [attempt.pk]).count(), 1)
        self.assertIn("rate changed", self.page(attempt))

    def test_a_verdict_says_whose_promise_it_is_of_and_of_which_files(self) -> None:
        attempt = self.attempt()
        change_promise(attempt.delivery, promise(frame_rate=[25, 1]), by=self.user)
        page = self.page(attempt)
        judged = self.fresh(attempt).judgement
        self.assertIn(judged.promise_digest[:8], page)
        self.assertIn("set by ada", page)
        self.assertEqual(
            (judged.export_size, judged.export_changed_ns), self.fresh(attempt).reel.state
        )

    def test_what_was_never_measured_is_measured_and_told_meanwhile(self) -> None:
        attempt = self.attempt()
        change_promise(attempt.delivery, promise(transfer=18), by=self.user)
        judged = self.fresh(attempt)
        self.assertEqual(judged.out_of_date, ["the promise has changed"])
        self.assertEqual(self.state(attempt), "waiting")
        page = self.page(attempt)
        self.assertIn("Out of date", page)
        self.assertIn('<span class="sk-stale">out of date</span> · ', page)  # beside the tally
        self.assertIn("Waiting for a worker", page)
        self.assertIn("out of date", self.client.get("/").content.decode())
        self.run_job(attempt)
        self.assertEqual(self.fresh(attempt).out_of_date, [])
        self.assertNotIn("Out of date", self.page(attempt))
        # The first survey is kept no longer than anything rests on it, and the way back is short.
        change_promise(self.fresh(attempt).delivery, "", by=self.user)
        self.assertEqual(self.fresh(attempt).out_of_date, [])

    def test_a_promise_that_changes_while_measuring_is_the_one_that_counts(self) -> None:
        attempt = self.attempt(measured=False)
        real, seen = surveying.run_child, []

        def run(*args, **request):
            found = real(*args, **request)
            if not seen:
                delivery = Delivery.objects.select_related("title__master").get()
                change_promise(delivery, promise(transfer=18), by=None)
            seen.append(request["promises"])
            return found

        with mock.patch.object(surveying, "run_child", run):
            self.assertEqual(self.run_job(attempt), "done")
        self.assertEqual(len(seen), 2)
        judged = self.fresh(attempt)
        self.assertEqual(judged.out_of_date, [])
        self.assertEqual(judged.judgement.kept().promise.value("transfer"), 18)

    def test_a_promise_that_never_settles_is_told(self) -> None:
        attempt = self.attempt(measured=False)
        with (
            mock.patch.object(surveying.services, "judge", return_value=None),
            mock.patch.object(surveying, "_measure"),
            self.assertRaises(FaultError),
        ):
            surveying.run_survey(self.job(attempt))

    def test_a_file_that_changed_after_its_survey_is_noticed(self) -> None:
        attempt = self.attempt()
        path = attempt.reel.locate()
        os.utime(path, ns=(1, attempt.reel.changed_ns + 1_000_000))
        self.assertIn("the export has changed on its disk", self.page(attempt))
        look = self.client.get(f"/attempt/{attempt.pk}/look/").content.decode()
        self.assertIn("Out of date", look)
        self.assertIn('<span class="sk-stale">out of date</span> · ', look)
        self.client.post(f"/attempt/{attempt.pk}/measure/")
        self.run_job(attempt)
        self.assertNotIn("Out of date", self.page(attempt))
        self.assertTrue(self.fresh(attempt).reel.is_as_read())

    def test_a_replaced_master_puts_every_attempt_out_of_date(self) -> None:
        first, second = self.attempt(), self.attempt("untagged.mp4")
        master = first.delivery.title.master
        os.utime(master.locate(), ns=(1, master.changed_ns + 1_000_000))
        self.client.post(f"/attempt/{first.pk}/measure/")
        self.run_job(first)
        self.assertEqual(self.fresh(first).out_of_date, [])
        self.assertEqual(self.fresh(second).out_of_date, ["the master has been replaced"])
        self.assertIn("out of date", self.client.get("/").content.decode())

    def test_a_file_that_cannot_be_reached_is_told(self) -> None:
        attempt = self.attempt()
        attempt.reel.path = "gone.mp4"
        attempt.reel.save()
        self.assertIn("cannot be reached", self.page(attempt))

    def test_other_rules_and_other_forms_are_not_taken_for_the_present(self) -> None:
        attempt = self.attempt()
        Judgement.objects.update(form=0)
        self.assertEqual(self.fresh(attempt).out_of_date, ["it was judged by older rules"])
        self.page(attempt)  # which judges it by the present ones
        self.assertEqual(self.fresh(attempt).out_of_date, [])
        Survey.objects.update(form=0, findings=b"of another time")
        Judgement.objects.update(form=0)
        page = self.page(attempt)
        self.assertIn("older version", page)
        self.assertIn("Measure again", page)

    def test_earlier_attempts_are_judged_by_the_new_promise_too(self) -> None:
        first, second = self.attempt(), self.attempt("untagged.mp4")
        change_promise(second.delivery, promise(frame_rate=[25, 1]), by=self.user)
        for attempt in (first, second):
            self.assertEqual(self.fresh(attempt).out_of_date, [])
            self.assertIn("rate changed", self.fresh(attempt).judgement.broken)

    def test_lists_read_columns_and_never_findings(self) -> None:
        self.attempt()
        self.client.get("/")  # which notes that somebody was here, once a minute
        # session, user, count, titles, deliveries, attempts, their signatures, presence; causes and
        # deliveries and people that are offered, kept searches
        with self.assertNumQueries(12):
            page = self.client.get("/")
        self.assertContains(page, "kept")
        with mock.patch.object(Survey, "survey", side_effect=AssertionError):
            self.client.get("/")

    def test_rows_are_drawn_once_for_as_long_as_they_are_equal(self) -> None:
        attempt = self.attempt()
        self.client.get("/")
        draw = "shapkeen.web.library.templatetags.listed.render_to_string"
        with mock.patch(draw, side_effect=AssertionError):
            self.assertContains(self.client.get("/"), "The Dial")
        attempt.delivery.name = "Quay"
        attempt.delivery.save()
        self.assertContains(self.client.get("/"), ">Quay</a>")
        self.assertNotContains(self.client.get("/"), ">Harbour</a>")

    def test_comparisons_are_read_once_and_again_when_judged_anew(self) -> None:
        attempt = self.attempt()
        self.page(attempt)
        with mock.patch.object(Judgement, "comparison", side_effect=AssertionError):
            self.page(attempt)
        before, known = services.comparison_of(self.fresh(attempt)), self.fresh(attempt)
        self.assertIs(services.comparison_of(self.fresh(attempt)), before)
        change_promise(attempt.delivery, promise(frame_rate=[25, 1]), by=self.user)
        services.judge(self.fresh(attempt))  # meanwhile, elsewhere
        recent.comparison.cache_clear()  # as in another process
        found = services.comparison_of(known)
        assert found is not None
        self.assertEqual(found.promise.value("frame_rate"), (25, 1))

    def test_the_shelf_comes_anew_while_something_is_measured(self) -> None:
        attempt = self.attempt(measured=False)
        self.assertContains(self.client.get("/"), "every 3s")
        part = self.client.get("/?part=titles", headers={"HX-Request": "true"})
        self.assertNotContains(part, "<html")
        self.assertContains(part, "waiting")
        self.run_job(attempt)
        part = self.client.get("/?part=titles", headers={"HX-Request": "true"})
        self.assertNotContains(part, "every 3s")

    def test_long_lists_are_paged(self) -> None:
        for number in range(11):
            create_title(f"Title {number}", "", "footage", "master.mov", by=None, reader=read_own)
        first, second = self.client.get("/"), self.client.get("/?page=2")
        self.assertContains(first, "page 1 of 2, 11 in all")
        self.assertContains(second, "Title 9")
        self.assertNotContains(first, "Title 9")

    def test_a_promise_set_twice_in_a_row_ends_in_the_second(self) -> None:
        attempt = self.attempt()
        for rate in (25, 30):
            change_promise(attempt.delivery, promise(frame_rate=[rate, 1]), by=self.user)
        judged = self.fresh(attempt).judgement
        self.assertEqual(judged.kept().promise.value("frame_rate"), (30, 1))
        self.assertLess(judged.promise_at, timezone.now())

    def test_a_survey_is_kept_once_with_its_series_beside_it(self) -> None:
        attempt = self.attempt()
        survey = Survey.objects.get()
        self.assertEqual(len(survey.survey().series), 0)
        self.assertEqual(len(SurveySeries.objects.get().frames()), survey.survey().export_frames)
        self.assertEqual(len(services.frame_pairs(attempt)), survey.survey().export_frames)
        services.measure(attempt)
        self.run_job(attempt)
        self.assertEqual(Survey.objects.count(), 1)
