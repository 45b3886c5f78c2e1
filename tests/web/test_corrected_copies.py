"""Corrected copies on the Bench: offered where a copy is the cure, written by a worker, taken in as
the next attempt, measured at once, and remembered for good."""

from pathlib import Path

from shapkeen.web.bench.cures import copies
from shapkeen.web.bench.models import CorrectedCopy
from shapkeen.web.library.models import Attempt
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.web.base import WebCase


class CorrectedCopies(WebCase):
    def page(self, attempt: Attempt) -> str:
        return self.client.get(attempt.get_absolute_url()).content.decode()

    def asked(self, attempt: Attempt):
        return self.client.post(f"{attempt.get_absolute_url()}cure/")

    def written(self, attempt: Attempt) -> Attempt:
        """Ask for a copy, write it and measure it; return the attempt that it became."""
        self.assertRedirects(self.asked(attempt), attempt.get_absolute_url())
        copy = CorrectedCopy.objects.get(reel=attempt.reel)
        run_job.func(Job.objects.latest_of(copies.WORK, copy.pk).pk)
        copy.refresh_from_db()
        run_job.func(Job.objects.latest_of(Attempt.WORK, copy.made.pk).pk)
        return Attempt.objects.with_context().get(pk=copy.made.pk)

    def test_offered_with_what_it_will_say_and_written_as_the_next_attempt(self) -> None:
        attempt = self.attempt("untagged.mp4")
        page = self.page(attempt)
        self.assertIn("A copy cures missing tag", page)
        self.assertIn("Write a corrected copy", page)
        self.assertIn("The copy will be <strong>kept</strong>", page)
        made = self.written(attempt)
        self.assertEqual((made.number, made.judgement.overall), (attempt.number + 1, "kept"))
        self.assertIn("attempt 2</a>", self.page(attempt))
        self.assertNotIn("Write a corrected copy", self.page(attempt))
        page = self.page(made)
        self.assertIn("byte for byte", page)
        self.assertIn("for ada", page)
        self.assertRegex(page, r"Transfer function</th><td>wrapper</td>")
        self.assertEqual(made.reel.root, "uploads")
        self.assertTrue(Path(made.reel.locate()).exists())

    def test_a_kept_export_is_offered_none(self) -> None:
        attempt = self.attempt("healthy.mp4")
        self.assertNotIn("corrected copy", self.page(attempt))
        self.asked(attempt)
        self.assertFalse(CorrectedCopy.objects.exists())
        self.assertIn("cured by a copy", self.page(attempt))

    def test_asked_twice_it_is_written_once(self) -> None:
        attempt = self.attempt("untagged.mp4")
        for _ in range(2):
            self.asked(attempt)
        self.assertEqual(CorrectedCopy.objects.count(), 1)
        copy = CorrectedCopy.objects.get()
        self.assertEqual(Job.objects.of(copies.WORK, [copy.pk]).count(), 1)
        self.assertIn("Waiting for a worker", self.page(attempt))

    def test_a_worker_that_ended_leaves_nothing_that_hinders_the_next(self) -> None:
        attempt = self.attempt("untagged.mp4")
        self.asked(attempt)
        copy = CorrectedCopy.objects.get()
        left = self.folder / "uploads" / copies._name(attempt.reel, copy.pk)
        left.write_bytes(b"of a worker that was killed")
        run_job.func(Job.objects.latest_of(copies.WORK, copy.pk).pk)
        copy.refresh_from_db()
        self.assertIsNotNone(copy.made)
        self.assertGreater(Job.objects.latest_of(Attempt.WORK, copy.made.pk).priority, 0)
        self.assertGreater(left.stat().st_size, 1000)

    def test_a_file_that_is_gone_ends_the_job_with_a_word(self) -> None:
        attempt = self.attempt("untagged.mp4")
        self.asked(attempt)
        place = attempt.reel.locate()
        kept = place.read_bytes()
        place.unlink()
        copy = CorrectedCopy.objects.get()
        job = Job.objects.latest_of(copies.WORK, copy.pk)
        run_job.func(job.pk)
        job.refresh_from_db()
        place.write_bytes(kept)
        self.assertEqual(job.state, Job.State.FAILED)
        self.assertIn("No corrected copy could be written", self.page(attempt))
