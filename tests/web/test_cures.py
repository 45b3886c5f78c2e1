"""Cures on the pages: look-up tables, tags set by hand, settings of the next export."""

import shutil
from html import unescape

import numpy as np

from shapkeen.core.colour.cube_file import read_cube
from shapkeen.web.bench.cures import copies, tables
from shapkeen.web.bench.models import CorrectedCopy, TakenTable
from shapkeen.web.library.models import Attempt, Title
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.builders.media import SDR, changed, sdr_planes, write
from tests.web.base import WebCase


class Drifted(WebCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        for name, exponent in (("darker", 1.2), ("lighter", 1 / 1.2)):
            moved = changed(sdr_planes("astronaut"), luma=lambda y, e=exponent: power(y, e))
            shutil.copy(write(f"web-{name}", moved, SDR), cls.folder / "footage" / f"{name}.mp4")

    def page(self, attempt: Attempt, part: str = "") -> str:
        return self.client.get(f"{attempt.get_absolute_url()}{part}").content.decode()

    def taken(self, attempt: Attempt, use: str):
        return self.client.post(f"{attempt.get_absolute_url()}table/{use}/", {"size": "17"})


def power(luma, exponent: float):
    return 16 + ((luma - 16).clip(0) / 219) ** exponent * 219


class Tables(Drifted):
    def test_a_table_is_offered_shown_saved_and_remembered(self) -> None:
        attempt = self.attempt("darker.mp4")
        self.assertIn("Take it back with a look-up table", self.page(attempt))
        page = self.page(attempt, "table/")
        self.assertIn("gamma shifted", page)
        self.assertIn("CIEDE2000", page)
        answer = self.taken(attempt, "source")
        self.assertIn("darker-over-master.cube", answer.headers["Content-Disposition"])
        text = answer.content.decode()
        self.assertIn("Put it over the master on its way out, once", text)
        self.assertGreater(read_cube(text).apply(np.full(3, 0.5))[0], 0.52)
        self.assertEqual(TakenTable.objects.get().taken_by, self.user)
        self.assertIn("by ada", self.page(attempt))

    def test_the_next_export_tells_what_the_table_did(self) -> None:
        first = self.attempt("darker.mp4")
        self.taken(first, "source")
        for name, word in (
            ("healthy.mp4", "<strong>taken back</strong>"),
            ("lighter.mp4", "over-corrected"),
            ("darker.mp4", "not taken back"),
        ):
            with self.subTest(name):
                self.assertIn(word, self.page(self.attempt(name)))

    def test_healthy_exports_are_offered_none(self) -> None:
        attempt = self.attempt("healthy.mp4")
        self.assertNotIn("look-up table", self.page(attempt))
        self.assertIn("no drift to undo", self.page(attempt, "table/"))
        self.assertRedirects(self.taken(attempt, "export"), f"{attempt.get_absolute_url()}table/")
        self.assertEqual(self.taken(attempt, "both").status_code, 302)
        self.assertFalse(TakenTable.objects.exists())

    def test_the_settings_of_the_next_export_are_only_those_that_differ(self) -> None:
        page = self.page(self.attempt("darker.mp4"))
        self.assertIn("Settings for the next export", page)
        self.assertIn("<mark>as mastered</mark>", page)
        self.assertNotIn("Settings for the next export", self.page(self.attempt("healthy.mp4")))


class Tags(WebCase):
    def sent(self, reel, **said: str):
        headers = {} if "write" in said else {"HX-Request": "true"}
        return self.client.post(f"{reel.get_absolute_url()}tags/", said, headers=headers)

    def test_both_witnesses_and_what_may_be_said(self) -> None:
        attempt = self.attempt("healthy.mp4")
        page = self.client.get(attempt.reel.get_absolute_url()).content.decode()
        self.assertIn("Correct tags", page)
        page = self.client.get(f"{attempt.reel.get_absolute_url()}tags/").content.decode()
        for word in ("Transfer function", "whole sphere", "left eye on top", "MaxCLL", "P3-D65"):
            self.assertIn(word, page)

    def test_a_preview_says_what_a_copy_then_says(self) -> None:
        attempt = self.attempt("healthy.mp4")
        said = {
            "kind": "HDR, HLG in BT.2020",
            "transfer": "16",
            "content_light": "say",
            "content_light.max_cll": "900",
            "content_light.max_fall": "120",
            "pixel_aspect.h": "4",
            "pixel_aspect.v": "3",
            "projection": '"half-equirectangular"',
            "mastering_display": '"P3-D65"',
            "mastering_display.max": "1000",
            "mastering_display.min": "0.005",
        }
        shown = self.sent(attempt.reel, **said).content.decode()
        for word in ("BT.2020", "PQ", "900 / 120", "4:3", "P3 1000", "half-equirectangular"):
            self.assertIn(word, shown)
        self.assertNotIn("HLG", shown)
        self.assertFalse(CorrectedCopy.objects.exists())
        self.assertRedirects(self.sent(attempt.reel, **said, write="1"), attempt.get_absolute_url())
        copy = CorrectedCopy.objects.get()
        run_job.func(Job.objects.latest_of(copies.WORK, copy.pk).pk)
        copy.refresh_from_db()
        self.assertEqual(copy.made.number, 2)
        declared = copy.result.declaration["witnesses"]
        self.assertEqual(
            (declared["wrapper"]["transfer"], declared["stream"]["transfer"]), (16, 16)
        )
        self.assertEqual(declared["stream"]["pixel_aspect"], [4, 3])

    def test_a_master_is_corrected_too_and_its_deliveries_are_judged_by_it(self) -> None:
        attempt = self.attempt("healthy.mp4")
        title = Title.objects.get()
        before = title.master
        self.assertRedirects(self.sent(before, transfer="13", write="1"), title.get_absolute_url())
        job = Job.objects.latest_of(copies.WORK, CorrectedCopy.objects.get().pk)
        run_job.func(job.pk)
        title.refresh_from_db()
        self.assertNotEqual(title.master, before)
        self.assertEqual(title.master.declaration["witnesses"]["stream"]["transfer"], 13)
        self.assertTrue(before.locate().exists())
        attempt = Attempt.objects.with_context().get(pk=attempt.pk)
        self.assertTrue(attempt.out_of_date)
        self.assertEqual(self.client.get(f"{before.get_absolute_url()}tags/").status_code, 404)

    def test_wrong_values_are_told_and_nothing_is_written(self) -> None:
        reel = self.attempt("healthy.mp4").reel
        for said, told in (
            ({"pixel_aspect": "say", "pixel_aspect.h": "wide"}, "is no number"),
            ({"transfer": "PQ"}, "Choose one of the values"),
            ({"projection_bounds.left": "0.6", "projection_bounds.right": "0.6"}, "overlap"),
            ({"mastering_display": '"P3-D65"'}, "peak and a black"),
            ({"transfer": "999"}, "code point"),
        ):
            with self.subTest(said):
                self.assertIn(told, self.sent(reel, **said).content.decode())
                page = unescape(self.sent(reel, **said, write="1").content.decode())
                self.assertIn(told, page)
                for typed in said.values():  # a mistake costs nothing that was typed
                    self.assertTrue(f'value="{typed}"' in page or typed in ("PQ", "999"), typed)
        self.assertContains(self.sent(reel, write="1"), "Nothing was asked for")
        self.assertIn("Nothing is chosen", self.sent(reel).content.decode())
        self.assertFalse(CorrectedCopy.objects.exists())

    def test_two_who_ask_for_other_things_do_not_exchange_their_copies(self) -> None:
        attempt = self.attempt("untagged.mp4")
        self.sent(attempt.reel, transfer="16", write="1")
        told = self.sent(attempt.reel, transfer="18", write="1")
        self.assertContains(told, "says other things is being written")
        self.assertEqual(CorrectedCopy.objects.get().wishes, {"transfer": 16})
        self.assertEqual(self.sent(attempt.reel, transfer="16", write="1").status_code, 302)
        run_job.func(Job.objects.latest_of(copies.WORK, CorrectedCopy.objects.get().pk).pk)
        # what that copy does not cure is offered still
        page = self.client.get(attempt.get_absolute_url()).content.decode()
        self.assertIn("Write a corrected copy", page)

    def test_strangers_see_nothing(self) -> None:
        attempt = self.attempt("healthy.mp4", measured=False)
        self.client.logout()
        for path in (
            f"{attempt.reel.get_absolute_url()}tags/",
            f"{attempt.get_absolute_url()}table/",
        ):
            self.assertEqual(self.client.get(path).status_code, 302)


class Effects(WebCase):
    def test_words_for_shares(self) -> None:
        words = [tables._word(share) for share in (-0.1, 0.1, 0.5, 0.98, 2.0)]
        wanted = ["not taken back"] * 2 + ["partly taken back", "taken back", "over-corrected"]
        self.assertEqual(words, wanted)
