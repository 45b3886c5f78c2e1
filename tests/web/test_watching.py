"""Watched folders: what is taken, when, and only once; copies that grow, are renamed, replaced."""

import os
import shutil
from datetime import timedelta
from io import StringIO
from pathlib import Path
from unittest import mock

from django.core.management import call_command
from django.urls import reverse
from django.utils import timezone
from django.utils.html import escape

from shapkeen.web.arriving import watching
from shapkeen.web.arriving.models import Watch, WatchedFile
from shapkeen.web.library.models import Attempt
from shapkeen.web.library.services import add_attempt
from shapkeen.web.people.models import Grant
from shapkeen.web.people.rights import make_person
from shapkeen.web.people.roles import EDITOR, VIEWER
from tests.web.base import WebCase


class Watching(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.place = self.folder / "footage" / "drop"
        self.place.mkdir()
        self.addCleanup(shutil.rmtree, self.place)
        self.now = timezone.now()
        self.source = (self.folder / "footage" / "healthy.mp4").read_bytes()

    def watch(self, **more: object) -> Watch:
        told = {"delivery_name": "Harbour", "root": "footage", "folder": "drop", "settle_s": 10}
        title = self.title()
        return Watch.objects.create(title=title, made_by=self.user, **(told | more))

    def put(self, name: str = "harbour_v1.mp4", data: bytes | None = None) -> Path:
        path = self.place / name
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(self.source if data is None else data)
        return path

    def look(self, after_s: float = 0.0) -> int:
        self.now += timedelta(seconds=after_s)
        return watching.look(self.now)

    def numbers(self) -> list[int]:
        return list(Attempt.objects.order_by("number").values_list("number", flat=True))

    def test_a_file_is_taken_once_it_has_settled_and_never_again(self) -> None:
        self.watch()
        self.put()
        self.assertEqual([self.look(), self.look(9.0), self.look(1.5)], [0, 0, 1])
        self.assertEqual([self.look(60), self.look(600)], [0, 0])
        attempt = Attempt.objects.get()
        self.assertEqual(
            (attempt.delivery.name, attempt.reel.path), ("Harbour", "drop/harbour_v1.mp4")
        )
        self.assertEqual(self.state(attempt), "waiting")

    def test_a_file_that_still_grows_waits(self) -> None:
        self.watch()
        path = self.put(data=self.source[:5000])
        self.look()
        for size in (9000, 20_000, len(self.source)):
            path.write_bytes(self.source[:size])
            self.assertEqual(self.look(60), 0)  # it changed: it settles anew
        self.assertEqual(self.look(11), 1)

    def test_a_half_file_is_never_judged_and_says_why(self) -> None:
        watch = self.watch()
        path = self.put(data=self.source[: len(self.source) // 2])
        self.look()
        self.assertEqual((self.look(60), self.look(60)), (0, 0))
        row = WatchedFile.objects.get()
        self.assertFalse(row.taken)
        self.assertTrue(row.trouble)
        page = self.client.get(reverse("arriving:watches", args=[watch.title_id]))
        self.assertContains(page, escape(row.trouble))
        path.write_bytes(self.source)  # the copy goes on
        self.look(1)
        self.assertEqual(self.look(11), 1)

    def test_a_renamed_file_is_known_again_and_a_replaced_one_is_the_next_attempt(self) -> None:
        self.watch()
        path = self.put()
        self.look()
        self.look(11)
        renamed = path.rename(self.place / "harbour_final.mp4")
        self.assertEqual((self.look(1), self.look(60)), (0, 0))
        self.assertEqual(self.numbers(), [1])
        self.assertEqual(Attempt.objects.get().reel.path, "drop/harbour_final.mp4")
        renamed.write_bytes((self.folder / "footage" / "untagged.mp4").read_bytes())
        self.look(1)
        self.assertEqual(self.look(11), 1)
        self.assertEqual(self.numbers(), [1, 2])

    def test_what_somebody_brought_in_by_hand_is_not_taken_again(self) -> None:
        watch = self.watch(settle_s=1)
        self.put()
        made = add_attempt(watch.title, "Quay", "footage", "drop/harbour_v1.mp4", by=self.user)
        self.look()
        self.look(5)
        self.assertEqual(Attempt.objects.get(), made)
        self.assertEqual(WatchedFile.objects.get().attempt, made)

    def test_only_names_of_the_pattern_and_no_hidden_or_strange_ones(self) -> None:
        watch = self.watch(pattern="*_BEACON_* quay*.mp4")
        for name in (
            "dial_beacon_v1.mp4",
            "quay.mp4",
            "dial_skerry.mp4",
            ".quay.mp4",
            "in/quay2.mp4",
        ):
            self.put(name)
        self.put("quay_notes.txt")
        (self.place / "quay_gone.mp4").symlink_to("nowhere")
        os.close(os.open(os.fsencode(self.place) + b"/quay\xff.mp4", os.O_CREAT | os.O_WRONLY))
        names = [Path(one.path).name for one in watching.files_of(watch)]
        self.assertEqual(sorted(names), ["dial_beacon_v1.mp4", "quay.mp4", "quay2.mp4"])

    def test_a_marker_says_when_a_file_is_whole(self) -> None:
        self.watch(marker=".done", settle_s=1)
        self.put()
        self.look()
        self.assertEqual(self.look(600), 0)
        self.put("harbour_v1.mp4.done", b"")
        self.assertEqual(self.look(2), 1)

    def test_a_share_that_is_away_is_said_and_nothing_is_forgotten(self) -> None:
        watch = self.watch()
        self.put()
        self.look()
        self.look(11)
        aside = self.place.rename(self.folder / "footage" / "aside")
        self.assertEqual(self.look(5), 0)
        watch.refresh_from_db()
        self.assertIn("nothing at that path", watch.trouble)
        aside.rename(self.place)
        self.assertEqual((self.look(5), self.look(60)), (0, 0))
        watch.refresh_from_db()
        self.assertEqual((watch.trouble, self.numbers()), ("", [1]))

    def test_paused_and_binned_ones_take_nothing(self) -> None:
        watch = self.watch(paused=True, settle_s=1)
        self.put()
        self.look()
        self.assertEqual(self.look(60), 0)
        self.client.post(reverse("arriving:watch-change", args=[watch.pk]), {"act": "go-on"})
        self.look()
        watch.title.put_away(self.user)
        self.assertEqual(self.look(60), 0)
        watch.title.take_back()
        self.assertEqual(self.look(60), 1)

    def test_one_folder_that_fails_keeps_no_other_from_being_seen(self) -> None:
        first = self.watch()
        told = {"title": first.title, "made_by": self.user, "root": "footage"}
        other = Watch.objects.create(delivery_name="Quay", **told)
        seen = []

        def fails(watch: Watch, _now: object) -> int:
            seen.append(watch.pk)
            raise RuntimeError

        with (
            mock.patch.object(watching, "look_into", fails),
            self.assertLogs("shapkeen.watching", "ERROR") as logged,
        ):
            self.look()
        self.assertEqual((seen, len(logged.records)), ([first.pk, other.pk], 2))

    def test_who_may_bring_in_no_more_brings_in_nothing_by_a_watch(self) -> None:
        watch = self.watch(settle_s=1)
        person = make_person("bo", "a-long-enough-one")
        Watch.objects.update(made_by=person)
        self.put()
        self.look()
        Grant.objects.filter(user=person).update(role=VIEWER)
        self.assertEqual(self.look(5), 0)
        watch.refresh_from_db()
        self.assertIn("may bring in no more", watch.trouble)
        Grant.objects.filter(user=person).update(role=EDITOR)
        self.assertEqual(self.look(5), 1)
        type(person).objects.filter(pk=person.pk).update(is_active=False)
        self.put("harbour_v2.mp4")
        self.assertEqual((self.look(5), self.look(5)), (0, 0))

    def test_the_page_previews_makes_and_ends_a_watch(self) -> None:
        title = self.title()
        self.put("dial_beacon.mp4")
        self.put("dial_skerry.mp4")
        page = reverse("arriving:watches", args=[title.pk])
        told = {"root": "footage", "folder": "drop", "pattern": "*beacon*", "settle_s": "5"}
        told |= {"delivery_name": "Beacon", "marker": ""}
        preview = self.client.post(reverse("arriving:watch-preview", args=[title.pk]), told)
        self.assertContains(preview, "<strong>1</strong> file")
        self.assertContains(preview, "1 other would not")
        for bad in ({"folder": "../.."}, {"folder": "nowhere"}, {"settle_s": "0"}, {"root": "x"}):
            self.assertEqual(self.client.post(page, told | bad).status_code, 422, bad)
        self.assertRedirects(self.client.post(page, told), page)
        out = StringIO()
        call_command("watch_folders", "--once", stdout=out)
        self.assertEqual(out.getvalue().strip(), "0 taken")  # it settles first
        self.assertContains(self.client.get(page), "settling since")
        watch = Watch.objects.get()
        self.client.post(reverse("arriving:watch-change", args=[watch.pk]), {"act": "end"})
        self.assertFalse(Watch.objects.exists())
