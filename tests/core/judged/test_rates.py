"""Rates: relabelled, resampled by repeating, dropping and mixing, and 59.94 against 60; and what is
too little to tell (one frame, black, a still)."""

import unittest
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

import numpy as np

from shapkeen.core.errors import CoreError
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import in_acts, shared_out
from tests.builders.media import SDR, coded, photo_frames, write
from tests.core.measured.test_timing import mixed

COUNT = 60


@lru_cache
def planes(photo: str = "coffee") -> list:
    return [coded(f, matrix=1, depth=8) for f in photo_frames(photo, (640, 360), COUNT)]


def compared(
    name: str, made: list, rate: Fraction, *, own: int | Fraction = 24, of: list | None = None
):
    master = write(
        f"rates-{float(own):.2f}-master", of or planes(), replace(SDR, rate=Fraction(own))
    )
    return compare_files(master, write(f"rates-{name}", made, replace(SDR, rate=rate)), frames=6)


def told(comparison: object) -> tuple[dict, dict]:
    survival = comparison.survival
    return {c.id: c.values for c in survival.causes}, {
        v.trait: v.verdict for v in survival.verdicts
    }


class Rates(unittest.TestCase):
    def test_relabelled_frames_are_all_there(self) -> None:
        # common practice: 59.94 for 60 is the same frames a thousandth slower, sound drifts
        rates = (
            (60, Fraction(60000, 1001)),
            (24, Fraction(24000, 1001)),
            (24, Fraction(25)),
        )
        for _, (own, rate) in shared_out(rates, 0):
            causes, verdicts = told(compared(f"label{own}", planes(), rate, own=own))
            with self.subTest(own=own, rate=rate):
                pair = (rate.numerator, rate.denominator)
                self.assertEqual(causes, {"rate-changed": {"from": (own, 1), "to": pair}})
                self.assertEqual((verdicts["frame_rate"], verdicts["frames"]), ("lost", "kept"))

    def test_resampled_by_repeating_dropping_and_mixing(self) -> None:
        source = planes()
        repeated = [source[int(n * 24 / 30)] for n in range(COUNT * 30 // 24)]
        halved = source[::2]
        blended = [
            mixed(source[int(n * 0.8)], source[min(int(n * 0.8) + 1, COUNT - 1)])
            if n % 5
            else source[int(n * 0.8)]
            for n in range(75)
        ]
        cases = (("repeat", repeated, 30), ("half", halved, 12), ("mix", blended, 30))
        for _, (name, made, rate) in shared_out(cases, 2):
            causes, verdicts = told(compared(name, made, Fraction(rate)))
            with self.subTest(name):
                self.assertEqual(causes, {"rate-changed": {"from": (24, 1), "to": (rate, 1)}})
                self.assertEqual((verdicts["frame_rate"], verdicts["frames"]), ("lost", "bent"))
                self.assertEqual(verdicts["tone"], "kept")

    @in_acts
    def test_converted_from_59_94_to_60_repeats_a_frame_now_and_then(self) -> None:
        own = Fraction(60000, 1001)
        source = [photo for name in ("coffee", "chelsea") for photo in planes(name)]
        made = [*source[:70], source[69], *source[70:]]  # one more, as every 1001st would be
        causes, verdicts = told(compared("to60", made, Fraction(60), own=own, of=source))
        self.assertEqual(causes["rate-changed"], {"from": (60000, 1001), "to": (60, 1)})
        self.assertLessEqual(set(causes), {"rate-changed", "frames-repeated"})
        self.assertEqual((verdicts["frame_rate"], verdicts["tone"]), ("lost", "kept"))


class TooLittle(unittest.TestCase):
    def verdicts(self, name: str, master: list, export: list) -> tuple[dict, dict]:
        one = write(f"little-{name}-m", master, SDR)
        return told(compare_files(one, write(f"little-{name}-e", export, SDR), frames=6))

    def test_one_frame_tells_shape_and_tone_but_no_time(self) -> None:
        source = planes()
        causes, verdicts = self.verdicts("one", source[:1], source[:1])
        self.assertEqual((causes, verdicts["frames"]), ({}, "unproven"))
        self.assertEqual((verdicts["shown_shape"], verdicts["raster"]), ("kept", "kept"))

    def test_all_black_is_unproven_and_names_nothing(self) -> None:
        black = [
            tuple(np.full_like(p, v) for p, v in zip(planes()[0], (16, 128, 128), strict=True))
        ] * 24
        causes, verdicts = self.verdicts("black", black, black)
        self.assertEqual(causes, {})
        for trait in ("tone", "gamut", "shown_shape", "framing", "detail", "frames"):
            self.assertEqual(verdicts[trait], "unproven", trait)

    def test_a_still_is_ambiguous_in_time_alone(self) -> None:
        still = [planes()[7]] * 24
        causes, verdicts = self.verdicts("still", still, still)
        self.assertEqual((causes, verdicts["frames"], verdicts["tone"]), ({}, "kept", "kept"))
        causes, verdicts = self.verdicts("shorter", still, still[:20])
        self.assertEqual((causes, verdicts["frames"]), ({}, "unproven"))

    def test_a_master_shorter_than_the_export_is_no_guess(self) -> None:
        source = planes()
        causes, verdicts = self.verdicts("longer", source[:30], source)
        self.assertEqual(causes, {})
        self.assertEqual((verdicts["frames"], verdicts["tone"]), ("bent", "kept"))

    def test_unlike_pictures_are_refused_in_words(self) -> None:
        one = write("little-a", planes("coffee")[:4], SDR)
        other = write("little-b", planes("rocket")[:4], SDR)
        with self.assertRaises(CoreError) as caught:
            compare_files(one, other, frames=4)
        self.assertEqual(caught.exception.code, "no-common-frame")
