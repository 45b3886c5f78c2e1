"""Reports, archives, restoring, backups, renaming and the bin, on files of their own."""

import json
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import closing
from datetime import timedelta
from pathlib import Path
from unittest import mock

import bagit
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from shapkeen.core.errors import UsageError
from shapkeen.web.archive import collecting
from shapkeen.web.archive import services as archives
from shapkeen.web.archive.models import Archive
from shapkeen.web.archive.restoring import restore_bag
from shapkeen.web.history.models import Event
from shapkeen.web.library import services as library
from shapkeen.web.library import tidying
from shapkeen.web.library.models import Attempt, Delivery, Reel, Title
from shapkeen.web.reports.models import KeptReport
from shapkeen.web.serving.management.commands import backup
from shapkeen.web.signoff import remarks
from shapkeen.web.signoff.models import Signature
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.web.base import conf_for
from tests.web.test_signoff import SignoffCase

EVENT = (
    "INSERT INTO history_event (at, by_name, act, subject, remark, seal) "
    "VALUES ('2026-11-29', 'ada', 'tried', '', '', '')"
)


def do(kind: str, number: int) -> Job:
    """Do what a worker would with the latest job of a kind."""
    job = Job.objects.latest_of(kind, number)
    assert job is not None
    run_job.func(job.pk)
    job.refresh_from_db()
    return job


class Reports(SignoffCase):
    def test_a_report_is_asked_for_made_and_handed_out(self) -> None:
        attempt = self.ready("untagged.mp4")
        self.sign(attempt, "refused", "the tags are gone")
        ask = reverse("reports:ask", args=[attempt.pk])
        self.client.post(ask, {"kind": "html"})
        kept = KeptReport.objects.get()
        self.assertContains(self.client.get(kept.get_absolute_url()), "Waiting for a worker")
        self.assertEqual(do("report", kept.pk).state, "done")
        file = reverse("reports:file", args=[kept.pk])
        shown = self.client.get(f"{file}?show")
        page = b"".join(shown.streaming_content).decode()
        for words in ("the tags are gone", "missing tag", "SHA-256", "data:image/png", "Refused"):
            self.assertTrue(words in page, words)
        self.assertIn("sandbox", shown["Content-Security-Policy"])
        self.assertIn("attachment", self.client.get(file)["Content-Disposition"])
        self.assertContains(self.client.get(ask), "lost")

    def test_a_title_is_one_report_over_the_newest_of_each_delivery(self) -> None:
        attempt = self.ready()
        title = attempt.delivery.title
        other = library.add_attempt(title, "Quay", "footage", "untagged.mp4", by=self.user)
        self.run_job(other)
        self.client.post(reverse("reports:ask-title", args=[title.pk]), {"kind": "json"})
        kept = KeptReport.objects.get()
        do("report", kept.pk)
        told = json.loads(kept.path.read_text())
        self.assertEqual(
            [(one["delivery"], one["overall"]) for one in told["reports"]],
            [("Harbour", "kept"), ("Quay", "lost")],
        )

    def test_what_was_never_measured_is_told(self) -> None:
        attempt = self.attempt(measured=False)
        self.client.post(reverse("reports:ask", args=[attempt.pk]), {"kind": "csv"})
        job = do("report", KeptReport.objects.get().pk)
        self.assertEqual((job.state, job.error["code"]), ("failed", "nothing-measured"))


class Archives(SignoffCase):
    def archive(self, *titles: Title, **more: bool) -> Archive:
        parts = {"masters": True, "unsigned": False, "reports": True, "tables": True, **more}
        choices = {"titles": [title.pk for title in titles], **parts}
        made = archives.ask(f"bag-{self._testMethodName}", choices, by=self.user)
        job = do(archives.WRITE, made.pk)
        self.assertEqual(job.state, "done", job.error)
        made.refresh_from_db()
        return made

    def filled(self) -> Attempt:
        """Return a signed attempt with a remark; beside it an unsigned one."""
        attempt = self.ready()
        self.sign(attempt, remark="as graded")
        first = remarks.say(attempt, "green", frame=3, place=(0.5, 0.5), by=self.user)
        remarks.answer(first, "as it was", by=self.user)
        self.attempt("untagged.mp4")
        return attempt

    def test_only_what_was_used_goes_in_and_the_other_library_finds_it_whole(self) -> None:
        attempt = self.filled()
        title = attempt.delivery.title
        made = self.archive(title)
        bag = bagit.Bag(str(made.folder))
        self.assertTrue(bag.validate())
        names = sorted(Path(path).name for path in bag.payload_entries())
        self.assertIn(title.master.name, names)
        self.assertIn(attempt.reel.name, names)
        self.assertNotIn("untagged.mp4", names)
        for name in ("promise.json", "report.html", "report.json", "library.json"):
            self.assertIn(name, names)
        whole = archives.ask("whole", {**made.choices, "unsigned": True}, by=self.user)
        do(archives.WRITE, whole.pk)
        self.assertTrue(list(whole.folder.rglob("untagged.mp4")))

    def test_what_it_takes_is_told_before(self) -> None:
        title = self.filled().delivery.title
        page = self.client.get(reverse("archive:estimate"), {"titles": title.pk, "masters": "on"})
        self.assertContains(page, "left out: nobody signed it")
        parts = collecting.parts_of([title], {"masters": True, "unsigned": False})
        goes = sum(part.size_bytes for part in parts if not part.why)
        self.assertEqual(page.context["total"], goes)
        made = self.archive(title, reports=False)
        media = sum(
            path.stat().st_size
            for path in made.folder.rglob("*")
            if path.suffix in (".mp4", ".mov")
        )
        self.assertEqual(media, goes)

    def test_a_mezzanine_copy_is_offered_where_it_would_be_smaller(self) -> None:
        title = self.title()
        title.master.size_bytes = 10**10
        saving = collecting.savings([title])[0]
        seconds = title.master.declaration["video"]["duration"]
        # 640×360 at 24 frames a second and 1.2 bits a sample, by arithmetic.
        wanted = 640 * 360 * 24 * seconds * 1.2 / 8
        self.assertAlmostEqual(saving.then_bytes, wanted, delta=1)
        title.master.size_bytes = 10
        self.assertEqual(collecting.savings([title]), [])

    def test_a_harmed_archive_is_found_years_later(self) -> None:
        made = self.archive(self.filled().delivery.title)
        path = next(made.folder.rglob("*.mov"))
        path.write_bytes(path.read_bytes()[:-1] + b"x")
        self.client.post(reverse("archive:verify", args=[made.pk]))
        do(archives.VERIFY, made.pk)
        page = self.client.get(made.get_absolute_url())
        self.assertContains(page, "Not what was written any more")
        self.assertContains(page, path.name)

    def test_it_goes_on_after_a_crash(self) -> None:
        title = self.filled().delivery.title
        choices = {
            "titles": [title.pk],
            "masters": True,
            "unsigned": True,
            "reports": False,
            "tables": False,
        }
        made = archives.ask("crashed", choices, by=self.user)
        with mock.patch("shapkeen.core.archived.write._tag", side_effect=RuntimeError):
            self.assertEqual(do(archives.WRITE, made.pk).state, "failed")
        self.assertFalse(made.folder.exists())
        archives.work.start(archives.WRITE, made.pk)
        with mock.patch("shapkeen.core.archived.write._copy", side_effect=AssertionError):
            self.assertEqual(do(archives.WRITE, made.pk).state, "done")
        self.assertTrue(bagit.Bag(str(made.folder)).validate())

    def test_titles_come_back_on_another_machine(self) -> None:
        attempt = self.filled()
        title, signature = attempt.delivery.title, Signature.objects.get()
        bound, digest = signature.bound_digest, signature.export_sha256
        bag = Path(tempfile.mkdtemp()) / "bag"
        self.addCleanup(shutil.rmtree, bag.parent)
        shutil.copytree(self.archive(title).folder, bag)
        tidying.put_into_bin(title, by=self.user)
        tidying.empty(by=self.user)
        elsewhere = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, elsewhere)
        with override_settings(CONF=conf_for(elsewhere)):
            restored = restore_bag(bag)[0]
            self.assertEqual((restored.name, restored.master.root), (title.name, "uploads"))
            again = Attempt.objects.with_context().get(delivery__title=restored)
            self.assertEqual((again.number, again.remarks.count()), (attempt.number, 2))
            self.run_job(again)
            self.digest(again)
            stands = self.stands(again)
            self.assertEqual((stands.moved, stands.unsure), ([], []))
            self.assertEqual(stands.signature.bound_digest, bound)
            self.assertEqual(stands.files[1].sha256, digest)
            acts = set(Event.objects.of_title(restored.pk).values_list("act", flat=True))
            self.assertLessEqual({"title made", "signed", "restored from an archive"}, acts)
            with self.assertRaisesRegex(UsageError, "Here already"):
                restore_bag(bag)

    def test_nothing_is_restored_from_a_harmed_archive(self) -> None:
        title = self.filled().delivery.title
        made = self.archive(title)
        (made.folder / "data" / collecting.LIBRARY).write_text("{}")
        tidying.put_into_bin(title, by=self.user)
        with self.assertRaisesRegex(CommandError, "not what was written"):
            call_command("restore_archive", str(made.folder))
        self.assertFalse(Title.objects.filter(binned_at=None).exists())

    def test_disk_use_is_told_by_title(self) -> None:
        title = self.filled().delivery.title
        page = self.client.get(reverse("archive:disk-use"))
        self.assertContains(page, title.name)
        use = archives.disk_use(self.user)[0]
        reels = Reel.objects.all()
        self.assertEqual((use.here, use.elsewhere), (0, sum(one.size_bytes for one in reels)))
        lies_here = reels.get(attempt__reel__path="untagged.mp4")
        Reel.objects.filter(pk=lies_here.pk).update(root="uploads")
        self.assertEqual(archives.disk_use(self.user)[0].here, lies_here.size_bytes)


class Tidying(SignoffCase):
    def sent(self) -> Attempt:
        """Return an attempt whose file lies only here."""
        title = Title.objects.first() or self.title()
        data = (self.folder / "footage" / "healthy.mp4").read_bytes()
        form = {
            "delivery": "Harbour",
            "upload": SimpleUploadedFile("sent.mp4", data, "video/mp4"),
        }
        self.client.post(reverse("library:add-export", args=[title.pk]), form)
        return Attempt.objects.with_context().latest("pk")

    def tidy(self, subject: object, **sent: object):
        kind = type(subject).__name__.lower()
        return self.client.post(reverse(f"library:tidy-{kind}", args=[subject.pk]), sent)

    def test_names_are_changed_and_never_taken_twice(self) -> None:
        attempt = self.attempt(measured=False)
        delivery, title = attempt.delivery, attempt.delivery.title
        library.delivery_named(title, "Quay")
        self.assertContains(
            self.tidy(delivery, act="rename", name="Quay"), "one named Quay", status_code=422
        )
        self.tidy(delivery, act="rename", name="Pier")
        self.tidy(title, act="rename", name="The Vernier", note="reel two")
        title.refresh_from_db()
        self.assertEqual((title.name, title.note), ("The Vernier", "reel two"))
        renamed = Event.objects.filter(act="renamed").order_by("pk").first()
        self.assertEqual((renamed.before, renamed.after), ({"name": "Harbour"}, {"name": "Pier"}))

    def test_a_file_that_lies_only_here_is_renamed_on_the_disk_too(self) -> None:
        attempt = self.sent()
        old = attempt.reel.locate()
        self.assertEqual(self.tidy(attempt, act="file", name="Dial v2").status_code, 302)
        attempt.reel.refresh_from_db()
        self.assertEqual((attempt.reel.name, old.exists()), ("Dial v2.mp4", False))
        self.assertTrue(attempt.reel.is_as_read())
        (self.folder / "uploads" / "taken.mp4").write_bytes(b"x")
        for name in ("taken", "../up", ".hidden", "a/b"):
            self.assertEqual(self.tidy(attempt, act="file", name=name).status_code, 422, name)
        rooted = self.attempt(measured=False)
        self.assertEqual(self.tidy(rooted, act="file", name="x").status_code, 404)

    def test_an_attempt_moves_within_its_title_and_is_judged_there(self) -> None:
        attempt = self.attempt()
        goal = library.delivery_named(attempt.delivery.title, "Quay")
        text = '{"schema": "shapkeen.promise/1", "traits": {"raster": {"value": [16, 16]}}}'
        library.change_promise(goal, text, by=self.user)
        self.tidy(attempt, act="move", goal=goal.pk)
        moved = self.again(attempt)
        self.assertEqual((moved.delivery, moved.number), (goal, 1))
        self.run_job(moved)
        self.assertEqual(self.again(moved).judged.overall, "bent")
        other = library.create_title("Other", "", "footage", "reels/other.mp4", by=self.user)
        with self.assertRaisesRegex(UsageError, "within its title"):
            tidying.move(moved, library.delivery_named(other, "Far"), by=self.user)

    def test_what_goes_with_it_is_said_and_the_bin_gives_it_back(self) -> None:
        attempt = self.sent()
        title = attempt.delivery.title
        page = self.client.get(reverse("library:tidy-title", args=[title.pk]))
        self.assertContains(page, "1 delivery, 1 attempt with its verdicts")
        self.assertContains(page, "1 file that lies only here")
        self.tidy(title, act="bin")
        self.assertNotContains(self.client.get("/"), f'href="{title.get_absolute_url()}"')
        for address in (title.get_absolute_url(), attempt.get_absolute_url()):
            self.assertEqual(self.client.get(address).status_code, 404)
        again = self.title()  # its name is free meanwhile
        take = {"kind": "title", "number": title.pk}
        page = self.client.post(reverse("library:take-back"), take, follow=True)
        self.assertContains(page, "Another one is named")
        tidying.rename(again, "The Other", by=self.user)
        self.client.post(reverse("library:take-back"), take)
        self.assertEqual(self.client.get(attempt.get_absolute_url()).status_code, 200)

    def test_thirty_days_later_it_is_gone_with_the_files_that_lay_only_here(self) -> None:
        attempt, rooted = self.sent(), self.attempt()
        title = attempt.delivery.title
        path, master = attempt.reel.locate(), title.master.locate()
        tidying.put_into_bin(title, by=self.user)
        self.assertEqual(tidying.empty(by=None, older_than_days=tidying.KEPT_DAYS), 0)
        past = timezone.now() - timedelta(days=31)
        Title.objects.filter(pk=title.pk).update(binned_at=past)
        self.assertEqual(tidying.empty(by=None, older_than_days=tidying.KEPT_DAYS), 1)
        self.assertFalse(path.exists())
        self.assertTrue(master.exists() and rooted.reel.locate().exists())
        for model in (Title, Delivery, Attempt, Reel):
            self.assertFalse(model.objects.exists(), model)
        self.assertTrue(Event.objects.filter(act="deleted for good").exists())

    def test_the_bin_is_emptied_by_an_administrator(self) -> None:
        attempt = self.attempt(measured=False)
        tidying.put_into_bin(attempt, by=self.user)
        self.assertContains(self.client.get(reverse("library:bin")), str(attempt.delivery))
        self.client.post(reverse("library:empty-bin"))
        self.assertFalse(Attempt.objects.exists())
        self.assertContains(self.client.get(reverse("library:bin")), "The bin is empty")


class Backups(SignoffCase):
    def test_taken_under_load_it_opens_clean_and_holds_whole_transactions(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder)
        live, stop = folder / "live.sqlite3", threading.Event()
        with closing(sqlite3.connect(live)) as made:
            made.execute("PRAGMA journal_mode=WAL")
            made.execute("CREATE TABLE pairs (a, b, filling)")
            made.executemany("INSERT INTO pairs VALUES (?, ?, ?)", [(0, 0, "x" * 4000)] * 3000)
            made.commit()

        def write() -> None:
            with closing(sqlite3.connect(live, timeout=20)) as own:
                number = 0
                while not stop.is_set():
                    number += 1
                    with own:  # both or neither
                        own.execute("UPDATE pairs SET a = ? WHERE rowid % 97 = 0", (number,))
                        own.execute("UPDATE pairs SET b = ? WHERE rowid % 97 = 0", (number,))
                    time.sleep(0.001)

        writers = [threading.Thread(target=write) for _ in range(3)]
        for one in writers:
            one.start()
        try:
            for number in range(3):
                goal = folder / f"copy-{number}.sqlite3"
                backup.back_up(live, goal)
                backup.check(goal)
                with closing(sqlite3.connect(goal)) as copy:
                    told = copy.execute("SELECT count(*), sum(a <> b) FROM pairs").fetchone()
                self.assertEqual(told, (3000, 0))
        finally:
            stop.set()
            for one in writers:
                one.join()
        self.assertEqual(list(folder.glob(".*")), [])

    def test_one_that_is_none_is_refused_and_none_is_written_over(self) -> None:
        live, goal = self.folder / "live.sqlite3", self.folder / "copy.sqlite3"
        with closing(sqlite3.connect(live)) as made:
            made.execute("CREATE TABLE t (x)")
            made.commit()
        backup.back_up(live, goal)
        with self.assertRaises(FileExistsError):
            backup.back_up(live, goal)
        (self.folder / "not.sqlite3").write_bytes(b"SQLite format 3\x00" + b"x" * 5000)
        with self.assertRaises(sqlite3.Error):
            backup.check(self.folder / "not.sqlite3")

    def test_both_commands_on_a_database_that_is_written_meanwhile(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder)
        goal = folder / "backup.sqlite3"

        def manage(*words: str) -> subprocess.CompletedProcess[str]:
            told = {**os.environ, "SHAPKEEN_DATA": str(folder / "data")}
            call = [sys.executable, "manage.py", *words]
            return subprocess.run(
                call, cwd=settings.BASE_DIR, env=told, capture_output=True, text=True, check=False
            )

        self.assertEqual(manage("migrate", "-v0").returncode, 0)
        live = folder / "data" / "shapkeen.sqlite3"
        stop, written = threading.Event(), []

        def write() -> None:
            with closing(sqlite3.connect(live, timeout=20)) as own:
                while not stop.is_set():
                    with own:
                        own.execute(EVENT)
                    written.append(1)
                    time.sleep(0.002)

        writer = threading.Thread(target=write)
        writer.start()
        made = manage("backup", str(goal))
        stop.set()
        writer.join()
        self.assertEqual(made.returncode, 0, made.stderr)
        with closing(sqlite3.connect(goal)) as copy:
            kept = copy.execute("SELECT count(*) FROM history_event").fetchone()[0]
        self.assertTrue(0 < kept <= len(written))
        self.assertEqual(manage("backup", str(goal)).returncode, 1)  # never over another
        back = manage("restore_backup", str(goal))
        self.assertEqual(back.returncode, 0, back.stderr)
        with closing(sqlite3.connect(live)) as again:
            there = again.execute("SELECT count(*) FROM history_event").fetchone()[0]
        self.assertEqual(there, kept)
        self.assertEqual(len(list(live.parent.glob("*.before-*[0-9]"))), 1)
