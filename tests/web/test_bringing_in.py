"""Bringing files in: media roots, uploads, and everything that can go wrong with them."""

import errno
import gc
import os
import shutil
from dataclasses import replace
from pathlib import Path
from unittest import mock
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import override_settings

from shapkeen.core.errors import UsageError
from shapkeen.web.library import roots, uploads
from shapkeen.web.library.forms import TitleForm
from shapkeen.web.library.models import Attempt, Reel, Title
from tests.web.base import WebCase, conf_for

MP4 = "video/mp4"


class Roots(WebCase):
    def test_listing_shows_folders_and_pictures(self) -> None:
        names = [entry.name for entry in roots.listing("footage", "").entries]
        self.assertEqual(names, ["reels", "healthy.mp4", "master.mov", "notes.mp4", "untagged.mp4"])
        inside = roots.listing("footage", "reels").entries
        self.assertEqual([e.path for e in inside], ["reels/other.mp4"])

    def test_every_ending_that_readers_take_is_listed(self) -> None:
        folder = self.folder / "footage" / "endings"
        folder.mkdir()
        self.addCleanup(shutil.rmtree, folder)
        for ending in ("flv", "y4m", "m2ts", "MXF", "avi", "hevc", "mpg", "webm"):
            (folder / f"reel.{ending}").touch()
        self.assertEqual(len(roots.listing("footage", "endings").entries), 8)

    def test_odd_entries_close_no_page(self) -> None:
        folder = self.folder / "footage" / "odd"
        folder.mkdir()
        self.addCleanup(shutil.rmtree, folder)
        (folder / "gone.mp4").symlink_to("nowhere")
        (folder / "round.mp4").symlink_to("round.mp4")
        os.close(os.open(os.fsencode(folder) + b"/bad-\xff.mp4", os.O_CREAT | os.O_WRONLY))
        (folder / "good.mp4").touch()
        found = roots.listing("footage", "odd")
        self.assertEqual([e.name for e in found.entries], ["good.mp4"])
        self.assertEqual(found.unlisted, 3)
        page = self.client.get("/title/add/?root=footage&folder=odd")
        self.assertContains(page, "3 more cannot be listed")
        for path in ("round.mp4", "x" * 300, "round.mp4/x"):
            answer = self.client.get("/title/add/", {"root": "footage", "folder": f"odd/{path}"})
            self.assertEqual(answer.status_code, 200, path)

    def test_a_root_that_is_away_is_named(self) -> None:
        conf = conf_for(self.folder)
        away = replace(conf, media_roots=conf.media_roots | {"vault": self.folder / "vault"})
        with override_settings(CONF=away):
            answer = self.client.get("/title/add/?root=vault")
            self.assertContains(answer, "The media root &#x27;vault&#x27; cannot be reached")

    def test_paths_outside_are_refused(self) -> None:
        link = self.folder / "footage" / "link.mp4"
        link.symlink_to("/etc/hostname")
        self.addCleanup(link.unlink)
        for path, code in (
            ("../shapkeen.sqlite3", "outside-root"),
            ("/etc/passwd", "outside-root"),
            ("link.mp4", "outside-root"),
            ("reels/../../x", "outside-root"),
            ("gone.mp4", "no-file"),
            ("a\0b", "bad-path"),
        ):
            with self.subTest(path=path), self.assertRaises(UsageError) as caught:
                roots.resolve("footage", path)
            self.assertEqual(caught.exception.code, code)
        with self.assertRaises(UsageError):
            roots.resolve("elsewhere", "x")


class Forms(WebCase):
    def add(self, **data: object):
        title = Title.objects.first() or self.title()
        return self.client.post(f"/title/{title.pk}/add-export/", {"delivery": "Harbour", **data})

    def test_title_from_a_root(self) -> None:
        answer = self.client.post(
            "/title/add/", {"name": "The Dial", "root": "footage", "path": "master.mov"}
        )
        self.assertRedirects(answer, Title.objects.get().get_absolute_url())
        self.assertEqual(Title.objects.get().master.declaration["video"]["codec"], "h264")

    def test_names_are_not_given_twice(self) -> None:
        self.title()
        answer = self.client.post(
            "/title/add/", {"name": "The Dial", "root": "footage", "path": "master.mov"}
        )
        self.assertContains(answer, "a title of that name", status_code=422)

    def test_taking_from_the_list_fills_the_form(self) -> None:
        answer = self.client.get("/title/add/?root=footage&file=master.mov&folder=")
        self.assertContains(answer, "footage: master.mov")
        self.assertContains(self.client.get("/title/add/?root=footage&folder=reels"), "other.mp4")
        self.assertContains(self.client.get("/title/add/?root=footage&folder=.."), "leads out of")

    def test_export_starts_a_survey(self) -> None:
        answer = self.add(root="footage", path="healthy.mp4")
        attempt = Attempt.objects.get()
        self.assertRedirects(answer, attempt.get_absolute_url())
        self.assertEqual(self.state(attempt), "waiting")

    def test_unusable_files_leave_nothing(self) -> None:
        self.title()
        (self.folder / "footage" / "empty.mp4").touch()
        for path, words in (
            ("notes.mp4", "no picture file"),
            ("empty.mp4", "file is empty"),
            ("../../etc/passwd", "leads out of"),
            ("gone.mp4", "nothing at that path"),
        ):
            answer = self.add(root="footage", path=path)
            self.assertContains(answer, words, status_code=422)
        self.assertEqual(Attempt.objects.count(), 0)
        self.assertEqual(Reel.objects.count(), 1)

    def test_a_chosen_and_a_sent_file_together_are_asked_about(self) -> None:
        sent = SimpleUploadedFile("sent.mp4", b"x" * 50, MP4)
        answer = self.add(root="footage", path="healthy.mp4", upload=sent)
        self.assertContains(answer, "Which one is it?", status_code=422)

    def test_choosing_keeps_what_was_typed(self) -> None:
        address = "/title/add/?root=footage&file=master.mov&name=The+Dial&note=reel+3"
        answer = self.client.get(address)
        self.assertContains(answer, 'value="The Dial"')
        self.assertContains(answer, 'value="reel 3"')

    def test_a_form_sent_twice_is_one_export(self) -> None:
        mark = str(uuid4())
        first = self.add(root="footage", path="healthy.mp4", sent_as=mark)
        again = self.add(root="footage", path="healthy.mp4", sent_as=mark)
        self.assertEqual(Attempt.objects.count(), 1)
        self.assertEqual(first["Location"], again["Location"])
        self.add(root="footage", path="healthy.mp4", sent_as=str(uuid4()))
        self.assertEqual(Attempt.objects.count(), 2)

    def test_a_lost_race_for_a_name_is_told(self) -> None:
        taken = self.title()
        hidden = mock.patch.object(TitleForm, "clean_name", lambda form: form.cleaned_data["name"])
        with hidden, transaction.atomic():
            answer = self.client.post(
                "/title/add/", {"name": taken.name, "root": "footage", "path": "healthy.mp4"}
            )
        self.assertContains(answer, "Someone brought in the same", status_code=422)

    def test_nothing_chosen(self) -> None:
        self.assertContains(self.add(), "Choose a file", status_code=422)


class Uploads(WebCase):
    def send(self, content: bytes, name: str = "sent.mp4", **headers: str):
        title = Title.objects.first() or self.title()
        return self.client.post(
            f"/title/{title.pk}/add-export/",
            {"delivery": "Harbour", "upload": SimpleUploadedFile(name, content, MP4)},
            headers=headers,
        )

    def content(self) -> bytes:
        return (self.folder / "footage" / "healthy.mp4").read_bytes()

    def kept(self) -> list[Path]:
        return list((self.folder / "uploads").iterdir())

    def tearDown(self) -> None:
        for path in self.kept():
            path.unlink()

    def test_upload_becomes_an_attempt(self) -> None:
        answer = self.send(self.content())
        attempt = Attempt.objects.get()
        self.assertRedirects(answer, attempt.get_absolute_url())
        self.assertEqual(attempt.reel.locate().read_bytes(), self.content())
        self.assertEqual([path.name for path in self.kept()], ["sent.mp4"])

    def test_htmx_is_sent_on(self) -> None:
        answer = self.send(self.content(), **{"HX-Request": "true"})
        self.assertEqual(answer["HX-Redirect"], Attempt.objects.get().get_absolute_url())

    def test_equal_names_do_not_meet(self) -> None:
        self.send(self.content())
        self.send(self.content())
        self.assertEqual(sorted(p.name for p in self.kept()), ["sent-2.mp4", "sent.mp4"])

    def test_names_cannot_lead_out(self) -> None:
        self.send(self.content(), name="../../evil.mp4")
        self.assertEqual([path.name for path in self.kept()], ["evil.mp4"])

    def test_unusable_upload_leaves_nothing(self) -> None:
        answer = self.send(b"just words, no picture " * 50)
        self.assertContains(answer, "no picture file", status_code=422)
        self.assertEqual(self.kept(), [])

    def test_full_disk(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        for step in ("write", "fsync"):
            self.title() if not Title.objects.exists() else None
            if step == "write":
                broken = mock.patch.object(
                    uploads.ReelUploadHandler, "receive_data_chunk", _failing_write(full)
                )
            else:
                broken = mock.patch.object(uploads.os, "fsync", side_effect=full)
            with broken:
                answer = self.send(self.content())
            self.assertContains(answer, "The disk is full", status_code=422)
            self.assertEqual(self.kept(), [], step)
        self.assertEqual(self.client.get("/").status_code, 200)
        self.assertEqual(Attempt.objects.count(), 0)

    def test_size_limit(self) -> None:
        self.title()
        with override_settings(CONF=conf_for(self.folder, upload_limit_bytes=10_000)):
            answer = self.send(self.content())
        self.assertContains(answer, "larger than the limit", status_code=422)
        self.assertEqual(self.kept(), [])

    def test_leftovers_are_removed_at_start(self) -> None:
        (self.folder / "uploads" / ".abc.part").write_bytes(b"half")
        (self.folder / "uploads" / "whole.mp4").write_bytes(b"of nothing that is known")
        (self.folder / "uploads" / "ours.mp4").write_bytes(b"known")
        self.assertEqual(uploads.remove_leftovers({"ours.mp4"}), 2)
        self.assertEqual([path.name for path in self.kept()], ["ours.mp4"])

    def test_far_too_large_is_refused_before_it_is_read(self) -> None:
        self.title()
        with override_settings(CONF=conf_for(self.folder, upload_limit_bytes=10_000)):
            answer = self.send(bytes(2_000_000))
        self.assertContains(answer, "larger than the limit", status_code=413)
        self.assertEqual(self.kept(), [])

    def test_long_names_in_any_writing(self) -> None:
        answer = self.send(self.content(), name="\u6a21" * 100 + ".mp4")
        self.assertRedirects(answer, Attempt.objects.get().get_absolute_url())
        [kept] = self.kept()
        self.assertLess(len(os.fsencode(kept.name)), 200)

    def test_across_file_systems(self) -> None:
        real, calls = Path.replace, []

        def other_disk(path: Path, goal: Path) -> Path:
            if path.name.endswith(".part"):
                calls.append(goal)
                raise OSError(errno.EXDEV, "Invalid cross-device link")
            return real(path, goal)

        with mock.patch.object(Path, "replace", other_disk):
            self.send(self.content())
        self.assertEqual(len(calls), 1)
        self.assertEqual(Attempt.objects.get().reel.locate().read_bytes(), self.content())
        self.assertEqual(len(self.kept()), 1)

    def test_a_disk_that_fills_up_at_the_last_step(self) -> None:
        self.title()
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch.object(uploads.ReelFile, "_move", side_effect=full):
            answer = self.send(self.content())
        self.assertContains(answer, "The disk is full", status_code=422)
        self.assertEqual(self.kept(), [])

    def test_a_connection_that_breaks_leaves_nothing(self) -> None:
        handler = uploads.ReelUploadHandler()
        handler.handle_raw_input(None, {}, None, "")
        handler.new_file("upload", "half.mp4", MP4, None)
        handler.receive_data_chunk(b"half", 0)
        self.assertEqual(len(self.kept()), 1)
        del handler
        gc.collect()
        self.assertEqual(self.kept(), [])


def _failing_write(error: OSError):
    real = uploads.ReelUploadHandler.receive_data_chunk

    def receive(self, raw_data: bytes, start: int) -> None:
        with mock.patch.object(self, "_out", mock.Mock(wraps=self._out)) as out:
            out.write.side_effect = error
            real(self, raw_data, start)

    return receive
