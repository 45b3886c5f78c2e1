"""Levels against published tables and worked examples (tests/reference/levels.json), and against
the levels that encoders choose by themselves."""

import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np

from shapkeen.core.declared import read_declaration
from shapkeen.core.geometry.levels import LEVELS, coded_raster, excesses, smallest_level
from shapkeen.core.judged.survival import judge_survival
from tests.builders import media
from tests.builders.evidence import declaration, evidence
from tests.builders.media import HDR, SDR, write
from tests.reference import load

TABLES = load("levels")


class Tables(unittest.TestCase):
    def test_every_cell(self) -> None:
        for level, row in zip(LEVELS["h264"], TABLES["h264"]["rows"], strict=True):
            self.assertEqual(level.name, row[0])
            limits = (level.samples_a_second, level.picture_samples, level.bit_rate)
            self.assertEqual(limits, (row[2] * 256, row[3] * 256, row[5] * 1000))
        for level, row in zip(LEVELS["h265"], TABLES["h265"]["rows"], strict=True):
            limits = (level.picture_samples, level.samples_a_second, level.bit_rate)
            self.assertEqual(limits, (row[2], row[8], row[9] * 1000))
        for level, row in zip(LEVELS["av1"], TABLES["av1"]["rows"], strict=True):
            self.assertEqual((level.picture_samples, level.width, level.height), tuple(row[2:5]))
        for level, row in zip(LEVELS["vp9"], TABLES["vp9"]["rows"], strict=True):
            self.assertEqual((level.samples_a_second, level.picture_samples), tuple(row[2:4]))

    def test_smallest_levels_of_the_examples(self) -> None:
        for raster, rate, h264, h265, av1, vp9, _ in TABLES["examples"]["rows"]:
            expected = {"h264": h264, "h265": h265, "av1": av1.removesuffix(".0"), "vp9": vp9}
            for codec, level in expected.items():
                with self.subTest(codec=codec, raster=raster, rate=rate):
                    self.assertEqual(smallest_level(codec, tuple(raster), Fraction(rate)), level)

    def test_coded_sides_are_whole_blocks(self) -> None:
        self.assertEqual(coded_raster("h264", (1920, 1080)), (1920, 1088))
        self.assertEqual(coded_raster("h265", (1918, 1078)), (1920, 1080))

    def test_unknown_levels_and_rasters_too_large_for_any(self) -> None:
        self.assertEqual(excesses("h264", "9.9", raster=(9999, 9999), rate=None), [])
        self.assertIsNone(smallest_level("h264", (40_000, 40_000), Fraction(24)))

    def test_bit_rate_by_profile_and_tier(self) -> None:
        # levels.json: level 4.1 High 62.5 Mb/s; H.265 5.1 Main tier 40, High tier 160 Mb/s
        def over(codec: str, level: str, megabits: float, **more: object) -> bool:
            more = {"duration_s": 1e6} | more
            found = excesses(
                codec,
                level,
                raster=(1920, 1080),
                rate=Fraction(24),
                bit_rate=int(megabits * 1e6),
                **more,
            )
            return [item.what for item in found] == ["bit rate"]

        self.assertFalse(over("h264", "4.1", 62, profile="High"))
        self.assertTrue(over("h264", "4.1", 63, profile="High"))
        self.assertTrue(over("h265", "5.1", 41, profile="Main 10"))
        self.assertFalse(over("h265", "5.1", 41, profile="Main 10", high_tier=True))
        # a buffer's worth may come before the first picture
        self.assertFalse(over("h264", "4.1", 200, profile="High", duration_s=0.5))


AV1 = replace(HDR, codec="libsvtav1", options=(("preset", "12"), ("crf", "40")))


class Encoders(unittest.TestCase):
    def test_levels_that_encoders_choose_are_kept_to(self) -> None:
        for name, coding, planes in (
            ("lv264", SDR, media.sdr_planes("coffee")[:3]),
            ("lv265", HDR, media.hdr_planes("coffee")[:3]),
            ("lv60", replace(SDR, rate=Fraction(60)), media.sdr_planes("coffee")[:3]),
            ("lvav1", AV1, media.hdr_planes("coffee")[:3]),
        ):
            found = read_declaration(write(name, planes, coding))
            rate = Fraction(*found.wrapper["frame_rate"].value)
            video = found.video
            self.assertEqual(
                excesses(video.codec, video.level, raster=media.SIZE, rate=rate), [], video.level
            )

    def test_levels_chosen_for_larger_rasters_are_our_smallest(self) -> None:
        # Black frames: x264 and x265 choose by raster and rate, and by little else then.
        quick, quiet = ("preset", "ultrafast"), ("x265-params", "log-level=error")
        for codec, options, raster, rate in (
            ("libx264", (quick,), (1920, 1080), 24),
            ("libx264", (quick,), (1920, 1080), 60),
            ("libx264", (quick,), (3840, 2160), 30),
            ("libx265", (quick, quiet), (1920, 1080), 60),
            ("libx265", (quick, quiet), (3840, 2160), 24),
        ):
            # In a transport stream: the MP4 multiplexer at times refuses two pictures alone.
            coding = replace(
                SDR, codec=codec, options=options, rate=Fraction(rate), ending=".ts", flags=()
            )
            found = read_declaration(write("lvlarge", [black(raster)] * 2, coding)).video
            self.assertEqual(found.level, smallest_level(found.codec, raster, Fraction(rate)))


def black(raster: tuple[int, int]) -> media.Planes:
    width, height = raster
    half = (height // 2, width // 2)
    return (
        np.full((height, width), 16, np.uint16),
        np.full(half, 128, np.uint16),
        np.full(half, 128, np.uint16),
    )


class Judging(unittest.TestCase):
    def export(self, level: str | None, **both: object):
        made = declaration(both=both)
        return replace(made, video=replace(made.video, level=level, profile="Main 10", tier="main"))

    def test_exceeded_level_is_named(self) -> None:
        made = judge_survival(evidence(export=self.export("3.1")))
        self.assertEqual([cause.id for cause in made.causes], ["level-exceeded"])
        self.assertEqual(made.overall, "bent")
        # H.265 table A.8: 1920×1080 at 24 frames/s fits level 4 and no lower one
        self.assertIn("to 4, the smallest that carries", made.causes[0].cure)

    def test_right_level_and_no_level_are_silent(self) -> None:
        for level in ("4", "5.1", None):
            self.assertEqual(judge_survival(evidence(export=self.export(level))).causes, ())

    def test_a_bit_rate_above_the_level_is_told_and_breaks_nothing(self) -> None:
        made = self.export("4")
        fast = replace(made, video=replace(made.video, bit_rate=90_000_000, duration_s=60.0))
        found = judge_survival(evidence(export=fast))
        level = next(v for v in found.verdicts if v.trait == "level")
        self.assertEqual((level.verdict, found.causes), ("kept", ()))
        self.assertIn("of its 90 Mb/s", level.why)
