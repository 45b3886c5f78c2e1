"""Surveys as jobs: outcome, progress, stop, retries, and recovery."""

import os
import signal
import sqlite3
import subprocess
import sys
import time
from datetime import timedelta
from unittest import mock

from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from shapkeen.core.errors import UnreadableFileError, UsageError
from shapkeen.web.jobs import sandbox, tasks
from shapkeen.web.jobs.management.commands.serve import requeue
from shapkeen.web.jobs.models import MOST_TRIES, Job
from shapkeen.web.jobs.services import begin_again
from shapkeen.web.library.models import Attempt
from tests.builders import media
from tests.web.base import WebCase


class Outcomes(WebCase):
    def test_result_is_saved(self) -> None:
        attempt = self.attempt("untagged.mp4")
        self.assertEqual(self.state(attempt), "done")
        self.assertEqual(attempt.overall, "lost")
        self.assertEqual(attempt.tally[0][0], "lost")
        self.assertGreater(attempt.job.total, 0)
        self.assertEqual(attempt.job.done, attempt.job.total)

    def test_a_record_of_an_older_form_is_offered_to_be_measured_again(self) -> None:
        attempt = self.attempt()
        attempt.record = {"schema": "shapkeen.record/1", "comparison": {}}
        attempt.save(update_fields=["record"])
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, "older version")
        self.assertContains(page, "Measure again")

    def test_unrelated_export_is_told(self) -> None:
        attempt = self.attempt("reels/other.mp4")
        self.assertEqual(self.state(attempt), "failed")
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, "no frame in common")
        self.assertContains(page, "Measure again")

    def test_file_that_went_away(self) -> None:
        attempt = self.attempt(measured=False)
        Attempt.objects.filter(pk=attempt.pk)
        attempt.reel.path = "gone.mp4"
        attempt.reel.save()
        tasks.survey.func(attempt.job.pk)
        job = Job.objects.get(attempt=attempt)
        self.assertEqual((job.state, job.error["code"]), ("failed", "no-file"))

    def test_crashing_file_is_given_up_after_three_tries(self) -> None:
        attempt = self.attempt(measured=False)
        with mock.patch.object(tasks, "run_child", side_effect=sandbox.ChildDiedError) as run:
            tasks.survey.func(attempt.job.pk)
        self.assertEqual(run.call_count, MOST_TRIES)
        self.assertEqual(Job.objects.get(attempt=attempt).error["code"], "decoder-crashed")

    def test_delivery_promise_is_obeyed(self) -> None:
        attempt = self.attempt(measured=False)
        attempt.delivery.promise_text = (
            '{"schema": "shapkeen.promise/1", "traits": {"frame_rate": {"value": [25, 1]}}}'
        )
        attempt.delivery.save()
        tasks.survey.func(attempt.job.pk)
        attempt.refresh_from_db()
        comparison = attempt.comparison()
        assert comparison is not None
        self.assertIn("delivery Harbour", comparison.promise.traits["frame_rate"].origin)
        self.assertEqual(comparison.survival.causes[0].id, "rate-changed")
        self.assertEqual(attempt.delivery.overrides().value("frame_rate"), (25, 1))


class Stopping(WebCase):
    def test_a_waiting_job_stops_at_once(self) -> None:
        attempt = self.attempt(measured=False)
        answer = self.client.post(f"/attempt/{attempt.pk}/stop/")
        self.assertRedirects(answer, attempt.get_absolute_url())
        self.assertEqual(self.state(attempt), "stopped")
        self.assertEqual(tasks.survey.func(attempt.job.pk), "stopped")

    def test_a_running_job_stops_at_the_next_frame(self) -> None:
        attempt = self.attempt(measured=False)
        real = Job.report

        def report(job: Job, done: int, total: int) -> bool:
            Job.objects.get(pk=job.pk).ask_to_stop()
            return real(job, done, total)

        with mock.patch.object(Job, "report", report):
            tasks.survey.func(attempt.job.pk)
        self.assertEqual(self.state(attempt), "stopped")
        self.assertIsNone(Attempt.objects.get(pk=attempt.pk).record)

    def test_a_job_stops_before_its_first_frame_too(self) -> None:
        attempt = self.attempt(measured=False)
        with (
            mock.patch.object(Job, "is_wanted", return_value=False),
            mock.patch.object(sandbox, "ASK_S", 0.01),
        ):
            tasks.survey.func(attempt.job.pk)
        self.assertEqual(self.state(attempt), "stopped")

    def test_begin_again(self) -> None:
        attempt = self.attempt(measured=False)
        job = Job.objects.get(attempt=attempt)
        job.ask_to_stop()
        begin_again(job)
        self.assertEqual(self.state(attempt), "waiting")
        tasks.survey.func(job.pk)
        self.assertEqual(self.state(attempt), "done")

    def test_running_jobs_are_not_begun_again(self) -> None:
        attempt = self.attempt(measured=False)
        job = Job.objects.get(attempt=attempt)
        self.assertTrue(job.claim())
        begin_again(job)
        self.assertEqual(self.state(attempt), "running")

    def test_only_posts_change_anything(self) -> None:
        attempt = self.attempt(measured=False)
        for deed in ("stop", "again"):
            self.assertEqual(self.client.get(f"/attempt/{attempt.pk}/{deed}/").status_code, 405)


class Progress(WebCase):
    def test_progress_and_remaining_time(self) -> None:
        attempt = self.attempt(measured=False)
        job = Job.objects.get(attempt=attempt)
        job.claim()
        job.report(3, 12)
        Job.objects.filter(pk=job.pk).update(started_at=timezone.now() - timedelta(seconds=6))
        answer = self.client.get(f"/attempt/{attempt.pk}/progress/", headers={"HX-Request": "true"})
        self.assertContains(answer, "3 of 12 frames read, about 18 s left")
        self.assertNotIn("HX-Refresh", answer)

    def test_the_page_is_loaded_anew_at_the_end(self) -> None:
        attempt = self.attempt()
        answer = self.client.get(f"/attempt/{attempt.pk}/progress/", headers={"HX-Request": "true"})
        self.assertEqual(answer["HX-Refresh"], "true")
        self.assertEqual(self.client.get(f"/attempt/{attempt.pk}/progress/").status_code, 302)


class Sandbox(WebCase):
    def test_errors_come_through_as_they_were(self) -> None:
        path = media.temporary("sandbox.mp4", b"words, no picture " * 20)
        with self.assertRaises(UnreadableFileError) as caught:
            sandbox.run_child("read", path=str(path))
        self.assertEqual(caught.exception.code, "not-a-picture-file")
        with self.assertRaises(UsageError):
            sandbox.run_child(
                "compare",
                master=str(media.sdr_master("coffee")),
                frames=3,
                export=str(media.sdr_master("rocket")),
            )

    def test_a_child_that_dies_is_told_apart(self) -> None:
        with self.assertRaises(sandbox.ChildDiedError):
            sandbox.run_child(
                "compare",
                master=str(media.sdr_master()),
                export=str(media.sdr_master()),
                frames=3,
                memory_bytes=60_000_000,
            )

    def test_stop_ends_the_child(self) -> None:
        with self.assertRaises(sandbox.StoppedError):
            sandbox.run_child(
                "compare",
                progress=lambda _done, _total: False,
                frames=5,
                master=str(media.sdr_master()),
                export=str(media.sdr_master()),
            )


class Recovery(WebCase):
    def row(self, worker: str) -> DBTaskResult:
        return DBTaskResult.objects.create(
            task_path="shapkeen.web.jobs.tasks.survey",
            args_kwargs={"args": [1], "kwargs": {}},
            queue_name="default",
            backend_name="default",
            status="RUNNING",
            worker_ids=[worker],
            run_after=timezone.now(),
            exception_class_path="",
            traceback="",
        )

    def test_tasks_of_dead_workers_go_back(self) -> None:
        mine, other = self.row("host-12-0"), self.row("elsewhere-3-0")
        self.assertEqual(requeue("host-"), 1)
        mine.refresh_from_db()
        other.refresh_from_db()
        self.assertEqual((mine.status, other.status), ("READY", "RUNNING"))

    def test_a_job_found_running_is_taken_over(self) -> None:
        attempt = self.attempt(measured=False)
        Job.objects.get(attempt=attempt).claim()
        tasks.survey.func(attempt.job.pk)
        job = Job.objects.get(attempt=attempt)
        self.assertEqual((job.state, job.tries), ("done", 2))


class KillingTheWorker(WebCase):
    """The whole way with real processes: a worker killed -9 in the midst of a survey."""

    PORT = "18471"

    def manage(self, *arguments: str, **more) -> "subprocess.Popen[str]":
        environment = os.environ | {
            "SHAPKEEN_DATA": str(self.folder),
            "SHAPKEEN_PORT": self.PORT,
            "SHAPKEEN_FRAMES": "9",
        }
        return subprocess.Popen(
            [sys.executable, "manage.py", *arguments],
            env=environment,
            text=True,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            **more,
        )

    def ask(self, column: str) -> str:
        """Return a column of the one job, read from the database beside the server."""
        with sqlite3.connect(self.folder / "shapkeen.sqlite3", timeout=20) as database:
            found = database.execute(f"SELECT {column} FROM jobs_job").fetchone()
        return str(found[0]) if found else ""

    def wait(self, column: str, wanted: str, seconds: float) -> None:
        deadline = time.monotonic() + seconds
        while (found := self.ask(column)) != wanted:
            self.assertLess(time.monotonic(), deadline, found)
            time.sleep(0.02)

    def test_the_survey_ends_all_the_same(self) -> None:
        server = self.manage("serve")
        self.addCleanup(server.kill)
        assert server.stdout is not None
        for line in server.stdout:
            if "Shapkeen is at" in line:
                break
        filled = self.manage(
            "shell",
            "-v",
            "0",
            "-c",
            "from shapkeen.web.library import services as s;"
            "t = s.create_title('T', '', 'footage', 'master.mov', by=None);"
            "s.add_attempt(t, 'D', 'footage', 'healthy.mp4', by=None)",
        )
        self.assertEqual(filled.communicate(timeout=60)[0], "")
        self.wait("state", "running", 60)
        children = subprocess.run(
            ["pgrep", "-P", str(server.pid), "-f", "db_worker"],
            capture_output=True,
            text=True,
            check=True,
        )
        os.kill(int(children.stdout.split()[0]), signal.SIGKILL)
        self.wait("state", "done", 90)
        self.assertEqual(self.ask("tries"), "2")
        server.send_signal(signal.SIGINT)
        self.assertIn("Stopped.", server.communicate(timeout=30)[0])
        left = subprocess.run(
            ["pgrep", "-f", f"127.0.0.1:{self.PORT}"], capture_output=True, check=False
        )
        self.assertEqual(left.stdout, b"")
