"""What if it were sent otherwise: every way really tried, and the answer by plain arithmetic."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from shapkeen.core.declared import read_declaration
from shapkeen.core.errors import UsageError
from shapkeen.core.rehearsed.ladder import Excerpt
from shapkeen.core.rehearsed.rehearsal import arrive, sent_of
from shapkeen.core.rehearsed.stand_in import stand_in_named
from shapkeen.core.rehearsed.what_if import (
    Outcome,
    Question,
    Variant,
    estimate_s,
    try_variants,
    variants_of,
    worth_of,
)
from shapkeen.core.rehearsed.what_if.trying import Seen
from tests.builders import media

HD = (1920, 1080)


def outcome(kept: float, *, upload_s: float = 600.0, ssim: float = 0.95, **variant) -> Outcome:
    made = Variant(**{"scale": "own", "bit_rate": 8, "sharpened": False, "codec": "h264"} | variant)
    return Outcome(
        variant=made,
        raster=HD,
        sent_bits=1.0,
        upload_s=upload_s,
        rendition="1080 SDR",
        rendition_raster=HD,
        file="",
        seen=Seen(ssim=ssim, detail_lines=900, of_lines=1080, detail_kept=kept, banding=None),
    )


class Worth(unittest.TestCase):
    def test_a_change_is_held_against_the_same_without_it(self) -> None:
        found = {
            one.change: one
            for one in worth_of(
                [
                    outcome(0.50, upload_s=600),
                    outcome(0.53, upload_s=3000, scale="double"),
                    outcome(0.60, upload_s=1200, codec="h265"),
                    outcome(0.60, upload_s=3600, scale="double", codec="h265"),
                ]
            )
        }
        # (0.53 ÷ 0.50 − 1 + 0.60 ÷ 0.60 − 1) ÷ 2 = 3 %; (2400 + 2400) ÷ 2 s = 40 minutes.
        larger = found["enlarging"]
        self.assertAlmostEqual(larger.detail_gain, 0.03)
        self.assertEqual(
            larger.text,
            "Enlarging buys 3% of detail in this picture and costs 40 minutes of upload.",
        )
        self.assertTrue(larger.is_worth_it)
        self.assertEqual(found["sending H.265 in place of H.264"].pairs, 2)
        self.assertNotIn("sharpening first", found)

    def test_detail_that_costs_likeness_is_not_worth_it(self) -> None:
        found = worth_of([outcome(0.5), outcome(0.6, ssim=0.93, sharpened=True)])
        self.assertFalse(found[0].is_worth_it)
        self.assertIn("less like its original", found[0].text)

    def test_what_changes_nothing_says_so(self) -> None:
        (found,) = worth_of([outcome(0.5), outcome(0.5, bit_rate=20, upload_s=600)])
        self.assertEqual(found.text, "Sending more bits changes no detail in this picture.")
        self.assertEqual(worth_of([outcome(0.5)]), ())


class Questions(unittest.TestCase):
    def test_every_way_is_tried_with_every_other(self) -> None:
        made = variants_of(Question(), HD)
        self.assertEqual((len(made), len({one.key for one in made})), (24, 24))
        self.assertEqual(made[-1].raster(HD), (3840, 2160))
        stand_in = stand_in_named("breakwater-stream")
        few = replace(Question(), codecs=("h264",), sharpened=(False,))
        cost = [estimate_s(q, HD, stand_in, cores=2) for q in (Question(), few)]
        self.assertGreater(cost[0], 2 * cost[1])

    def test_what_cannot_be_tried_is_refused(self) -> None:
        for change, where in (
            ({"codecs": ("mpeg2",)}, "codecs"),
            ({"bit_rates": (5,)}, "bit_rates"),
            ({"bit_rates": ()}, "question"),
            ({"line_bits": 0}, "line_bits"),
            ({"bit_rates": tuple(range(10**6, 10**6 + 20))}, "question"),
        ):
            with self.subTest(change), self.assertRaises(UsageError) as caught:
                variants_of(replace(Question(), **change), HD)
            self.assertEqual(caught.exception.where, where)
        with self.assertRaises(UsageError):
            variants_of(Question(), (3840, 2160))


class Tried(unittest.TestCase):
    def test_enlarging_buys_a_better_step_of_the_ladder(self) -> None:
        # trade fact (common practice, no source): a service codes larger pictures with more care
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = media.sdr_master("coffee")
        arrival = arrive(read_declaration(path), stand_in_named("breakwater-stream"))
        sent = sent_of(path, arrival, None)
        question = Question(bit_rates=(3_000_000,), sharpened=(False,), codecs=("h264",))
        excerpt = Excerpt(first=0, end=media.FRAMES, moments={})
        told: list[tuple[int, int]] = []

        def tried() -> tuple[Outcome, ...]:
            return try_variants(
                sent,
                excerpt,
                question,
                Path(folder.name),
                length_s=600.0,
                progress=lambda done, total: told.append((done, total)),
            )

        own, double = tried()
        self.assertEqual((own.rendition_raster, double.rendition_raster), ((640, 360), (1280, 720)))
        self.assertGreater(double.seen.detail_kept, own.seen.detail_kept)
        self.assertEqual(told, [(0, 2), (1, 2), (2, 2)])
        self.assertAlmostEqual(own.upload_s, own.sent_bits * 600 / 20e6)
        again = tried()  # kept: nothing is coded again
        self.assertEqual(again, (own, double))
        self.assertTrue(worth_of(again)[0].is_worth_it)
