"""Work of every kind: jobs and how they end, the boundary to child processes, and recovery."""

import contextlib
import os
import signal
import socket
import sqlite3
import stat
import subprocess
import sys
import threading
import time
import urllib.request
from datetime import timedelta
from pathlib import Path
from unittest import mock

from django.db import OperationalError
from django.test import SimpleTestCase, override_settings
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from shapkeen.core.errors import UnreadableFileError, UsageError
from shapkeen.web.bench import surveying
from shapkeen.web.bench import works as bench_works
from shapkeen.web.bench.models import Judgement
from shapkeen.web.library import works as library_works
from shapkeen.web.library.models import Attempt
from shapkeen.web.look.ahead import WORK as DRAWING
from shapkeen.web.look.ahead import start_drawing
from shapkeen.web.serving.management.commands import serve
from shapkeen.web.serving.management.commands.serve import Keeper
from shapkeen.web.work import boundary, ready, room, services
from shapkeen.web.work.errors import FaultError, StoppedError
from shapkeen.web.work.made import kept, made, only_one
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.builders import media
from tests.web import works_under_test as works
from tests.web.base import WebCase, conf_for

HTMX = {"HX-Request": "true"}
LONG_S = 300.0
"""Nothing should take as long, and on a busy machine what is right may take a minute."""


class Outcomes(WebCase):
    measures = True

    def test_result_is_saved(self) -> None:
        attempt = self.attempt("untagged.mp4")
        job = self.job(attempt)
        self.assertEqual((job.state, attempt.judgement.overall), ("done", "lost"))
        self.assertEqual(attempt.judgement.tally[0][0], "lost")
        self.assertGreater(job.total, 0)
        self.assertEqual(job.done, job.total)
        self.assertIsNotNone(job.ended_at)
        self.assertRegex(job.note, r"so far: frame \d of the export, SSIM 0\.9\d\d")

    def test_unrelated_export_is_told(self) -> None:
        attempt = self.attempt("reels/other.mp4")
        self.assertEqual(self.state(attempt), "failed")
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, "no frame in common")
        self.assertContains(page, "Measure again")
        self.assertNotContains(page, "not to blame")

    def test_file_that_went_away(self) -> None:
        attempt = self.attempt(measured=False)
        attempt.reel.path = "gone.mp4"
        attempt.reel.save()
        self.run_job(attempt)
        job = self.job(attempt)
        self.assertEqual((job.state, job.error["code"]), ("failed", "no-file"))

    def test_a_fault_of_ours_is_told_as_ours_and_logged(self) -> None:
        attempt = self.attempt(measured=False)
        fault = FaultError("It broke.", code="internal", details="Traceback: here")
        for error, words in ((fault, "It broke."), (ZeroDivisionError("x"), "ZeroDivisionError")):
            with (
                mock.patch.object(surveying, "run_child", side_effect=error),
                self.assertLogs("shapkeen.web.work.tasks", "ERROR") as logged,
            ):
                self.run_job(attempt)
            job = self.job(attempt)
            self.assertTrue(job.is_our_fault)
            self.assertIn("Traceback", " ".join(logged.output))
            page = self.client.get(attempt.get_absolute_url())
            self.assertContains(page, "the file is not to blame")
            self.assertContains(page, words)
            services.start(Attempt.WORK, attempt.pk)

    def test_delivery_promise_is_obeyed(self) -> None:
        attempt = self.attempt(measured=False)
        text = '{"schema": "shapkeen.promise/1", "traits": {"frame_rate": {"value": [25, 1]}}}'
        attempt.delivery.set_promise(text, by=self.user, at=timezone.now())
        self.run_job(attempt)
        comparison = Judgement.objects.get(attempt=attempt).comparison()
        self.assertIn("delivery Harbour", comparison.promise.traits["frame_rate"].origin)
        self.assertEqual(comparison.survival.causes[0].id, "rate-changed")


class Stopping(WebCase):
    measures = True

    def test_a_waiting_job_stops_at_once(self) -> None:
        attempt = self.attempt(measured=False)
        job = self.job(attempt)
        answer = self.client.post(f"/job/{job.pk}/stop/")
        self.assertRedirects(answer, attempt.get_absolute_url())
        self.assertEqual(self.state(attempt), "stopped")
        self.assertEqual(run_job.func(job.pk), "stopped")

    def test_a_running_job_stops_at_the_next_frame(self) -> None:
        attempt = self.attempt(measured=False)

        def report(job: Job, done: int, total: int) -> bool:
            Job.objects.get(pk=job.pk).ask_to_stop()
            return job.is_wanted()

        with mock.patch.object(Job, "report", report):
            self.run_job(attempt)
        self.assertEqual(self.state(attempt), "stopped")
        self.assertFalse(Judgement.objects.exists())

    def test_a_job_stops_before_its_first_frame_too(self) -> None:
        attempt = self.attempt(measured=False)
        with (
            mock.patch.object(Job, "is_wanted", return_value=False),
            mock.patch.object(boundary, "ASK_S", 0.01),
        ):
            self.run_job(attempt)
        self.assertEqual(self.state(attempt), "stopped")

    def test_a_job_whose_worker_is_gone_stops_too(self) -> None:
        job = self.job(self.attempt(measured=False))
        self.assertTrue(job.claim())
        Job.objects.filter(pk=job.pk).update(beat=timezone.now() - timedelta(minutes=2))
        job.ask_to_stop()
        self.assertEqual(job.state, "stopped")

    def test_begin_again(self) -> None:
        attempt = self.attempt(measured=False)
        self.job(attempt).ask_to_stop()
        self.client.post(f"/job/{self.job(attempt).pk}/again/")
        self.assertEqual(self.state(attempt), "waiting")
        self.assertEqual(self.run_job(attempt), "done")

    def test_one_job_of_a_kind_and_subject_at_a_time(self) -> None:
        attempt = self.attempt(measured=False)
        job = self.job(attempt)
        self.assertTrue(job.claim())
        self.assertEqual(services.start(Attempt.WORK, attempt.pk), job)
        self.assertFalse(Job.objects.get(pk=job.pk).claim())  # another worker has it
        self.assertEqual(Job.objects.count(), 1)

    def test_only_posts_change_anything_and_only_the_visible_is_shown(self) -> None:
        job = self.job(self.attempt(measured=False))
        for deed in ("stop", "again"):
            self.assertEqual(self.client.get(f"/job/{job.pk}/{deed}/").status_code, 405)
        self.client.logout()
        self.assertEqual(self.client.get(f"/job/{job.pk}/progress/").status_code, 302)


class Progress(WebCase):
    def test_progress_and_remaining_time(self) -> None:
        job = self.job(self.attempt(measured=False))
        with mock.patch("shapkeen.web.work.models.time.monotonic", side_effect=(100.0, 106.0)):
            job.claim()
            job.report(3, 12)
        job.tell("Least like its master so far: frame 3.")
        answer = self.client.get(f"/job/{job.pk}/progress/", headers=HTMX)
        self.assertContains(answer, "3 of 12 frames, about 18 s left")
        self.assertContains(answer, "Least like its master so far: frame 3.")
        self.assertNotIn("HX-Refresh", answer)

    def test_it_is_written_at_most_twice_a_second(self) -> None:
        job = self.job(self.attempt(measured=False))
        job.claim()
        with self.assertNumQueries(1):
            for done in range(1, 50):
                self.assertTrue(job.report(done, 100))
        with self.assertNumQueries(1):
            job.report(100, 100)

    def test_the_page_is_loaded_anew_at_the_end(self) -> None:
        job = self.job(self.attempt())
        answer = self.client.get(f"/job/{job.pk}/progress/", headers=HTMX)
        self.assertEqual(answer["HX-Refresh"], "true")
        self.assertEqual(self.client.get(f"/job/{job.pk}/progress/").status_code, 302)

    def test_drawing_ahead_waits_for_every_survey(self) -> None:
        attempt = self.attempt(measured=False)
        start_drawing(self, attempt)
        services.start(Attempt.WORK, attempt.pk)
        stills = Job.objects.get(kind=DRAWING)
        survey = self.job(self.attempt("untagged.mp4", measured=False))
        self.assertEqual((stills.ahead, survey.ahead), (2, 1))

    def test_a_waiting_job_says_how_many_are_before_it(self) -> None:
        first = self.attempt(measured=False)
        self.client.get(first.get_absolute_url())  # somebody waits for it
        second = self.attempt("untagged.mp4", measured=False)
        self.assertContains(self.client.get(second.get_absolute_url()), "1 ahead")


class Boundary(WebCase):
    def test_errors_come_through_as_they_were(self) -> None:
        path = media.temporary("boundary.mp4", b"words, no picture " * 20)
        with self.assertRaises(UnreadableFileError) as caught:
            boundary.run_child(library_works.read, path=str(path))
        self.assertEqual(caught.exception.code, "not-a-picture-file")
        with self.assertRaises(UsageError):
            boundary.run_child(
                bench_works.survey,
                master=str(media.sdr_master("coffee")),
                export=str(media.sdr_master("rocket")),
                promises=[],
                frames=3,
                goal=str(self.folder),
                executor="processes",
                workers=1,
            )

    def test_a_crash_at_the_same_place_twice_is_the_files(self) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            boundary.run_child(works.crash_at, place=41)
        self.assertEqual(caught.exception.code, "decoder-crashed")
        self.assertIn("41", caught.exception.text)

    def test_crashes_at_different_places_are_ours(self) -> None:
        with self.assertRaises(FaultError) as caught:
            boundary.run_child(works.crash_at, place=-1)
        self.assertEqual(caught.exception.code, "decoder-unsteady")

    def test_a_crash_that_does_not_come_back_is_forgotten(self) -> None:
        mark = self.folder / "crashed-once"
        self.assertEqual(boundary.run_child(works.crash_once, mark=str(mark)), {"done": True})

    def test_kills_limits_and_slips_are_ours_with_what_tells_of_them(self) -> None:
        limited = override_settings(CONF=conf_for(self.folder, child_memory_bytes=2_000_000_000))
        for work, request, code, details in (
            (works.crash_at, {"place": 1, "signal": signal.SIGKILL}, "child-killed", "signal 9"),
            (works.fail, {}, "internal", "KeyError: 'a slip of ours'\n\nwords on standard error"),
            (works.eat_memory, {}, "memory-limit", "MemoryError"),
            (works.spin, {"time_s": 1, "wall_s": LONG_S}, "time-limit", "signal 24"),
        ):
            with self.subTest(code), limited, self.assertRaises(FaultError) as caught:
                boundary.run_child(work, **request)
            self.assertEqual(caught.exception.code, code)
            self.assertIn(details, caught.exception.details)

    def test_time_by_the_clock_and_storage_that_does_not_answer(self) -> None:
        with self.assertRaises(FaultError) as caught:
            boundary.run_child(works.sleep, wall_s=1.5)
        self.assertEqual(caught.exception.code, "wall-limit")
        with (
            mock.patch.multiple(boundary, STALL_S=1.0, STALL_ASK_S=0.2, ASK_S=0.2),
            self.assertRaises(FaultError) as caught,
        ):
            boundary.run_child(works.sleep)
        self.assertEqual(caught.exception.code, "storage-stalled")

    def test_children_are_forked_of_one_process_that_has_loaded_what_they_need(self) -> None:
        found = [boundary.run_child(works.tell_ready) for _ in range(3)]
        self.assertTrue(all(one["loaded"] for one in found))
        self.assertEqual({one["parent"] for one in found}, {ready._forkers[0].process.pid})
        self.assertEqual(len({one["pid"] for one in found}), 3)
        # none holds what belongs to another: its own three, and the listing's
        self.assertTrue(all(len(one["open"]) == 4 for one in found), found)

    def test_nothing_stays_open_of_children_that_ended(self) -> None:
        boundary.run_child(works.tell_ready)
        forker = ready._forkers[0].process.pid

        def count() -> list[int]:
            return [len(list(Path(f"/proc/{pid}/fd").iterdir())) for pid in ("self", forker)]

        before = count()
        for _ in range(20):
            boundary.run_child(works.tell_ready)
        with self.assertRaises(FaultError):
            boundary.run_child(works.fail)
        deadline = time.monotonic() + LONG_S
        # The last pipe is closed a moment after its child is told of.
        while any(now > then for now, then in zip(count(), before, strict=True)):
            self.assertLess(time.monotonic(), deadline, count())
            time.sleep(0.01)

    def test_another_is_begun_where_the_process_that_forks_was_ended(self) -> None:
        first = boundary.run_child(works.tell_ready)
        os.kill(first["parent"], signal.SIGKILL)
        second = boundary.run_child(works.tell_ready)
        self.assertNotEqual(second["parent"], first["parent"])
        self.assertTrue(second["loaded"])

    def test_a_child_whose_forker_is_killed_goes_on_and_answers(self) -> None:
        first = boundary.run_child(works.tell_ready)
        took = []

        def take(part: dict[str, int]) -> bool:
            if not took:
                os.kill(first["parent"], signal.SIGKILL)
            took.append(part)
            return True

        self.assertTrue(boundary.run_child(works.tell_ready, part=take)["loaded"])

    def test_a_fork_of_this_process_has_a_forker_of_its_own(self) -> None:
        boundary.run_child(works.tell_ready)
        ours = ready._forkers[0]
        with mock.patch.object(ready.os, "getpid", return_value=1):
            self.assertFalse(ours.is_ours)

    def test_parts_come_before_the_end_and_may_stop_it(self) -> None:
        parts: list[int] = []

        def take(part: dict[str, int]) -> bool:
            parts.append(part["part"])
            return part["part"] < 2

        with self.assertRaises(StoppedError):
            boundary.run_child(works.tell_ready, part=take)
        self.assertEqual(parts, [1, 2])

    def test_stop_ends_the_child(self) -> None:
        mark = self.folder / "pid"
        with self.assertRaises(StoppedError):
            boundary.run_child(works.tell_pid, progress=lambda _done, _total: False, mark=str(mark))
        self.assertFalse(Path(f"/proc/{mark.read_text()}").exists())

    def test_no_child_outlives_its_parent(self) -> None:
        mark = self.folder / "orphan"
        code = (
            "import django; django.setup();"
            "from shapkeen.web.work.boundary import run_child;"
            "from tests.web.works_under_test import tell_pid;"
            f"run_child(tell_pid, mark={str(mark)!r})"
        )
        environment = os.environ | {"DJANGO_SETTINGS_MODULE": "shapkeen.web.config.settings"}
        parent = subprocess.Popen([sys.executable, "-c", code], env=environment)
        deadline = time.monotonic() + LONG_S
        while not (mark.exists() and mark.read_text()):
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)
        parent.kill()
        parent.wait()
        while Path(f"/proc/{mark.read_text()}").exists():
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)


class MadeFiles(SimpleTestCase):
    def setUp(self) -> None:
        self.folder = Path(media.place("made"))
        self.folder.mkdir(exist_ok=True)
        overriding = override_settings(CONF=conf_for(self.folder))
        overriding.enable()
        self.addCleanup(overriding.disable)

    def test_equal_requests_in_flight_are_one_work(self) -> None:
        calls, found = [], []

        def make(_folder: Path) -> dict[str, bytes]:
            calls.append(1)
            time.sleep(0.3)
            return {"one": b"picture"}

        def ask() -> None:
            with made("one", make) as file:
                found.append(file.read())

        threads = [threading.Thread(target=ask) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((len(calls), found), (1, [b"picture"] * 6))

    def test_nothing_is_kept_of_what_fails_and_the_next_may_try(self) -> None:
        def fail(_folder: Path) -> dict[str, bytes]:
            raise UnreadableFileError("no", code="no")

        with self.assertRaises(UnreadableFileError):
            made("two", fail)
        self.assertIsNone(kept("two"))
        with made("two", lambda _: {"two": b"now"}) as file:
            self.assertEqual(file.read(), b"now")

    def test_whoever_waits_too_long_is_told(self) -> None:
        with (
            only_one("three"),
            mock.patch("shapkeen.web.work.made.WAIT_S", 0.1),
            self.assertRaises(FaultError) as caught,
        ):
            made("three", lambda _: {"three": b""})
        self.assertEqual(caught.exception.code, "busy")

    def test_what_was_not_used_for_longest_goes(self) -> None:
        overriding = override_settings(CONF=conf_for(self.folder, made_bytes=4_000_000))
        with overriding:
            for number in range(30):
                name = f"large-{number}"
                made(name, lambda _, name=name: {name: os.urandom(400_000)}).close()
            self.assertIsNone(kept("large-0"))
            last = kept("large-29")
            assert last is not None
            last.close()


class Recovery(WebCase):
    measures = True

    def queue(self):
        """Return a queue in place of the real one, which a test has no worker for."""
        queue = mock.Mock(module_path=run_job.module_path)
        return mock.patch.object(services.tasks, "run_job", queue)

    def row(self, worker: str) -> DBTaskResult:
        return DBTaskResult.objects.create(
            task_path=run_job.module_path,
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
        self.assertEqual(services.give_back("host-"), 1)
        mine.refresh_from_db()
        other.refresh_from_db()
        self.assertEqual((mine.status, other.status), ("READY", "RUNNING"))

    def test_jobs_go_back_with_their_tasks_unless_another_has_them_by_now(self) -> None:
        lost, elsewhere = (self.job(self.attempt(measured=False)) for _ in range(2))
        for job, workers in ((lost, ["host-12-0"]), (elsewhere, ["host-12-0", "other-1-0"])):
            job.claim()
            for worker in workers:
                task = DBTaskResult.objects.filter(pk=self.row(worker).pk)
                task.update(args_kwargs={"args": [job.pk], "kwargs": {}})
        self.assertEqual(services.give_back("host-12-0"), 2)
        self.assertTrue(lost.claim(), "whoever takes the task has it at once")
        self.assertFalse(elsewhere.claim())

    def test_a_full_database_ends_no_server_and_tasks_are_given_back_later(self) -> None:
        keeper = Keeper(["true"], worker_id="host-12-0")
        keeper.process = mock.Mock(**{"poll.return_value": 1})
        full = OperationalError("database or disk is full")
        with mock.patch.object(serve, "give_back", side_effect=full):
            keeper.look_after()  # its worker has ended
            keeper.look_after()
        self.assertTrue(keeper.owes)
        mine = self.row("host-12-0")
        keeper.look_after()
        mine.refresh_from_db()
        self.assertEqual((mine.status, keeper.owes), ("READY", False))

    def test_jobs_that_no_queue_holds_are_queued(self) -> None:
        job = self.job(self.attempt(measured=False))  # its row is written, and nothing was queued
        with self.queue() as queue:
            self.assertEqual(services.adopt_orphans(), 1)
        queue.using.assert_called_once_with(priority=0)
        queue.using().enqueue.assert_called_once_with(job.pk)
        task = DBTaskResult.objects.filter(pk=self.row("host").pk)
        task.update(args_kwargs={"args": [job.pk], "kwargs": {}}, started_at=timezone.now())
        self.assertEqual(services.adopt_orphans(), 0)

    def test_a_task_of_a_worker_that_nobody_keeps_is_not_waited_for(self) -> None:
        # an extra worker that was killed, or one of an earlier start under another host name
        job = self.job(self.attempt(measured=False))
        job.claim()
        task = DBTaskResult.objects.filter(pk=self.row("random-id").pk)
        long_ago = timezone.now() - timedelta(minutes=3)
        task.update(args_kwargs={"args": [job.pk], "kwargs": {}}, started_at=long_ago)
        Job.objects.filter(pk=job.pk).update(beat=long_ago)
        with self.queue() as queue:
            self.assertEqual(services.adopt_orphans(), 1)
        queue.using().enqueue.assert_called_once_with(job.pk)

    def test_a_job_whose_worker_fell_silent_is_taken_over(self) -> None:
        attempt = self.attempt(measured=False)
        job = self.job(attempt)
        self.assertTrue(job.claim())
        self.assertEqual(services.adopt_orphans(), 0)
        Job.objects.filter(pk=job.pk).update(beat=timezone.now() - timedelta(minutes=2))
        with self.queue():
            self.assertEqual(services.adopt_orphans(), 1)
        self.run_job(attempt)
        job = self.job(attempt)
        self.assertEqual((job.state, job.tries), ("done", 2))

    def test_work_waits_for_room_on_the_disk_and_goes_on_by_itself(self) -> None:
        attempt = self.attempt(measured=False)
        full = mock.patch.object(room.shutil, "disk_usage", return_value=mock.Mock(free=5_000_000))
        with full:
            self.assertEqual(self.run_job(attempt), "waiting")
            place = f"/job/{self.job(attempt).pk}/progress/"
            page = self.client.get(place, headers={"HX-Request": "true"})
            self.assertContains(page, "5 MB are free, and 200 MB are needed")
        with self.queue():
            self.assertEqual(services.adopt_orphans(), 1)
        self.assertEqual(self.run_job(attempt), "done")

    def test_a_disk_that_fills_up_meanwhile_gives_the_job_back(self) -> None:
        attempt = self.attempt(measured=False)
        told = FaultError("x", code="internal", details="OSError: No space left on device")
        for error in (OSError(28, "No space left on device"), told):
            with mock.patch.object(surveying, "run_child", side_effect=error):
                self.assertEqual(self.run_job(attempt), "waiting")
        self.assertEqual(self.run_job(attempt), "done")

    def test_at_the_start_nobody_holds_a_job(self) -> None:
        job = self.job(self.attempt(measured=False))
        job.claim()
        services.free_all()
        self.assertTrue(Job.objects.get(pk=job.pk).claim())

    def test_a_job_of_what_was_deleted_ends(self) -> None:
        attempt = self.attempt(measured=False)
        number = self.job(attempt).pk
        attempt.delete()
        self.assertEqual(run_job.func(number), "stopped")
        self.assertEqual(run_job.func(999), "gone")


class KillingTheWorker(WebCase):
    """The whole way with real processes: a worker killed -9 in the midst of a survey."""

    def setUp(self) -> None:
        super().setUp()
        with socket.create_server(("127.0.0.1", 0)) as free:
            self.port = str(free.getsockname()[1])

    def manage(self, *arguments: str, **more) -> "subprocess.Popen[str]":
        environment = os.environ | {
            "SHAPKEEN_DATA": str(self.folder),
            "SHAPKEEN_PORT": self.port,
            "SHAPKEEN_FRAMES": "9",
            "SHAPKEEN_WORKERS": "1",
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
        """Return a column of the first job, read from the database beside the server."""
        with sqlite3.connect(self.folder / "shapkeen.sqlite3", timeout=20) as database:
            found = database.execute(f"SELECT {column} FROM work_job ORDER BY id").fetchone()
        return str(found[0]) if found else ""

    def wait(self, column: str, wanted: str) -> None:
        deadline = time.monotonic() + LONG_S
        while (found := self.ask(column)) != wanted:
            self.assertLess(time.monotonic(), deadline, found)
            time.sleep(0.02)

    def pids(self, words: str) -> list[int]:
        told = subprocess.run(["pgrep", "-f", words], capture_output=True, text=True, check=False)
        return [int(line) for line in told.stdout.split()]

    def of_this_data(self, words: str) -> list[int]:
        """Return processes of that command line which run on this test's data."""
        mark = f"SHAPKEEN_DATA={self.folder}".encode()
        found = []
        for pid in self.pids(words):
            try:
                if mark in Path(f"/proc/{pid}/environ").read_bytes().split(b"\0"):
                    found.append(pid)
            except OSError:
                continue
        return found

    def below(self, pid: int) -> list[int]:
        """Return the processes that a process started, and theirs."""
        told = subprocess.run(
            ["pgrep", "-P", f"{pid}"], capture_output=True, text=True, check=False
        )
        own = [int(line) for line in told.stdout.split()]
        return [*own, *(one for child in own for one in self.below(child))]

    def gone(self, words: str) -> None:
        deadline = time.monotonic() + LONG_S
        while left := self.of_this_data(words):
            self.assertLess(time.monotonic(), deadline, left)
            time.sleep(0.05)

    def served(self) -> "subprocess.Popen[str]":
        server = self.manage("serve")
        self.addCleanup(server.kill)
        assert server.stdout is not None
        up = any("Shapkeen is at" in line for line in server.stdout)
        self.assertTrue(up, "the server ended before it was up")
        return server

    def assert_slow_clients_stop_nobody(self) -> None:
        """Hold 60 connections in their headers, and one that sends a file without log-in."""
        place = ("127.0.0.1", int(self.port))
        with contextlib.ExitStack() as stack:
            for _ in range(60):
                slow = stack.enter_context(socket.create_connection(place))
                slow.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n")
            address = f"http://127.0.0.1:{self.port}/log-in/"
            with urllib.request.urlopen(address, timeout=LONG_S) as answer:
                self.assertEqual(answer.status, 200)
            sender = stack.enter_context(socket.create_connection(place))
            sender.sendall(
                b"POST /title/add/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 200000000\r\n"
                b"Content-Type: multipart/form-data; boundary=x\r\n\r\n"
            )
            self.assertIn(b" 403 ", sender.recv(100))
            with self.assertRaises(OSError):  # what follows is not read
                for _ in range(1000):
                    sender.sendall(bytes(65536))

    def test_the_survey_ends_all_the_same_and_nothing_is_left(self) -> None:
        server = self.served()
        filled = self.manage(
            "shell",
            "-v",
            "0",
            "-c",
            "from shapkeen.web.library import services as s;"
            "t = s.create_title('T', '', 'footage', 'master.mov', by=None);"
            "s.add_attempt(t, 'D', 'footage', 'healthy.mp4', by=None)",
        )
        self.assertEqual(filled.communicate(timeout=LONG_S)[0], "")
        self.wait("state", "running")
        worker = self.of_this_data("db_worker")[0]
        deadline = time.monotonic() + LONG_S
        while len(below := self.below(worker)) < 2:  # what forks, and the child that measures
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.02)
        os.kill(worker, signal.SIGKILL)
        deadline = time.monotonic() + LONG_S
        while any(Path(f"/proc/{pid}").exists() for pid in below):
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)
        self.wait("state", "done")
        self.assertEqual(self.ask("tries"), "2")
        server.send_signal(signal.SIGINT)
        self.assertIn("Stopped.", server.communicate(timeout=LONG_S)[0])
        self.gone("shapkeen.web")

    def test_nothing_outlives_a_server_that_was_killed(self) -> None:
        server = self.served()
        self.assertEqual(stat.S_IMODE(self.folder.stat().st_mode), 0o700)
        self.assert_slow_clients_stop_nobody()
        server.kill()
        server.wait()
        self.gone("shapkeen.web")
