"""Framing arithmetic against the tables of tests/reference/geometry.json (its sources: ITU-T H.264
table E-1, BT.709, BT.2020, ST 428-1; every number there was computed with exact fractions)."""

import unittest
from fractions import Fraction

from shapkeen.core.geometry.framing import (
    ImpossibleError,
    broken_steps,
    cut_to,
    fill_zoom,
    fit_inside,
    is_whole,
    lowered,
    placed,
    shown_shape,
    to_step,
    widened,
)
from shapkeen.core.geometry.packing import packing_of
from shapkeen.core.geometry.timecode import frame_of, timecode_of
from tests.reference import load

TABLES = load("geometry")
SHAPES = {
    "1.33 (4:3)": (4, 3),
    "1.66 (5:3)": (5, 3),
    "1.78 (16:9)": (16, 9),
    "2.40 (12:5)": (12, 5),
}


def shape_of(name: str) -> Fraction:
    if name in SHAPES:
        return Fraction(*SHAPES[name])
    if ":" in name:
        return Fraction(*map(int, name.split(":")))
    return Fraction(name)


class Tables(unittest.TestCase):
    def test_shown_shapes_of_the_rasters(self) -> None:
        for row in TABLES["rasters"]:
            self.assertEqual(shown_shape(tuple(row["raster"])), Fraction(*row["aspect"]))

    def test_anamorphic_factors_by_sensor(self) -> None:
        # 1.25, 4/3, 1.5, 1.6, 1.8 and 2 on four sensors
        sensors = ((16, 9), (256, 135), (4, 3), (6, 5))
        for name, factor, *shapes in TABLES["anamorphic"]["rows"]:
            for sensor, (shape, _) in zip(sensors, shapes, strict=True):
                with self.subTest(factor=name, sensor=sensor):
                    self.assertEqual(shown_shape(sensor, tuple(factor)), Fraction(*shape))

    def test_unsqueezed_rasters(self) -> None:
        factors = {name: tuple(pair) for name, pair, *_ in TABLES["anamorphic"]["rows"]}
        for stored, name, _, wide, low, shape in TABLES["unsqueezed"]["rows"]:
            with self.subTest(stored=stored, factor=name):
                self.assertEqual(list(widened(tuple(stored), factors[name])), wide)
                self.assertEqual(list(lowered(tuple(stored), factors[name])), low)
                self.assertAlmostEqual(float(shown_shape(tuple(stored), factors[name])), shape, 4)

    def test_delivery_crops_and_where_they_lie(self) -> None:
        for source, rows in TABLES["delivery_crops"]["rows_by_source"].items():
            raster = tuple(map(int, source.split("x")))
            for name, _, nearest, _, removed, centres, _ in rows:
                with self.subTest(source=source, target=name):
                    cut = cut_to(raster, (1, 1), shape_of(name))
                    self.assertEqual(list(cut), nearest)
                    area = placed(raster, cut, (0.5, 0.5), "4:2:0")
                    self.assertTrue(area.lies_in(raster))
                    self.assertEqual((area.left % 2, area.top % 2), (0, 0))
                    after = raster[0] - area.left - cut[0], raster[1] - area.top - cut[1]
                    self.assertEqual([area.left + after[0], area.top + after[1]], removed)
                    self.assertEqual((area.left, area.top) == after, centres)

    def test_crops_of_the_trade_are_even_and_centre_as_said(self) -> None:
        for source, crop, _, _, _, even, centres in TABLES["trade_crops_checked"]["rows"]:
            self.assertEqual(broken_steps(tuple(crop), "4:2:0") == "", even)
            area = placed(tuple(source), tuple(crop), (0.5, 0.5), "4:2:0")
            middle = (source[0] - crop[0]) / 2, (source[1] - crop[1]) / 2
            self.assertEqual((area.left, area.top) == middle, centres, (source, crop))

    def test_zooms_that_fill(self) -> None:
        for source, goal, _, zoom, share in TABLES["fill_zoom"]["rows"]:
            with self.subTest(source=source, goal=goal):
                found = fill_zoom(shape_of(source), shape_of(goal))
                self.assertEqual(found, Fraction(*zoom))
                self.assertAlmostEqual(float(1 / found), share, 6)

    def test_whole_enlargements(self) -> None:
        for before, after, _, ratio, whole in TABLES["scaling"]["rows"]:
            self.assertEqual(Fraction(after, before), Fraction(*ratio))
            self.assertEqual(is_whole(Fraction(after, before)), whole)


class Placing(unittest.TestCase):
    def test_facts_of_the_trade(self) -> None:
        # common practice, no source: upright 4:5 from 16:9 takes an enlargement of 2.22
        self.assertAlmostEqual(float(fill_zoom(Fraction(16, 9), Fraction(4, 5))), 2.22, 2)
        # 3840 stored, pixel aspect 4:3: shown 5120 wide; 3840×2160 is not 2:1
        self.assertEqual(widened((3840, 2160), (4, 3)), (5120, 2160))
        self.assertNotEqual(shown_shape((3840, 2160)), 2)

    def test_bars_are_alike_and_even(self) -> None:
        for shape in (Fraction(12, 5), Fraction(239, 100), Fraction(4, 3), Fraction(9, 16)):
            for frame in ((1920, 1080), (3840, 2160), (1080, 1350), (1280, 720)):
                area = fit_inside(shape, frame)
                self.assertEqual((2 * area.left + area.width, 2 * area.top + area.height), frame)
                self.assertEqual([side % 2 for side in (area.left, area.top, *area.size)], [0] * 4)
                # rounded to 4 samples at most, of the smaller side
                off = abs(area.width / area.height / float(shape) - 1)
                self.assertLess(off, 2.1 / min(area.size))
        # 1920×1080 with 2.40: the picture is 1920×800, bars of 140 (geometry.json)
        self.assertEqual(fit_inside(Fraction(12, 5), (1920, 1080)).size, (1920, 800))

    def test_places_stay_inside_and_even(self) -> None:
        area = placed((1920, 1080), (1920, 818), (0.5, 7.0), "4:2:0")
        self.assertEqual((area.top, area.lies_in((1920, 1080))), (262, True))
        self.assertEqual(placed((1920, 1080), (1920, 818), (0.5, 0.5), "4:2:0").top % 2, 0)
        self.assertEqual(to_step(Fraction(1), 16), 16)

    def test_impossible_shapes_are_refused_in_words(self) -> None:
        for raster, aspect in (((0, 1080), (1, 1)), ((1920, 0), (1, 1)), ((1920, 1080), (0, 0))):
            with self.assertRaisesRegex(ImpossibleError, "above 0"):
                shown_shape(raster, aspect)
        self.assertIn("even width and height", broken_steps((1919, 1080), "4:2:0"))
        self.assertIn("even width", broken_steps((1919, 1080), "4:2:2"))
        self.assertEqual(broken_steps((1920, 1081), "4:2:2"), "")
        self.assertEqual(broken_steps((1919, 1081), "4:4:4"), "")


class EyesAndSpheres(unittest.TestCase):
    def test_packed_sizes(self) -> None:
        # arithmetic of equirectangular pictures: top–bottom 4096×4096 holds 4096×2048 an eye, top–
        # bottom in 4096×2048 4096×1024, side by side 2048×2048
        full, half = packing_of("top and bottom, full"), packing_of("top and bottom, half")
        self.assertEqual(full.frame((4096, 2048)), (4096, 4096))
        self.assertEqual(half.eye((4096, 2048)), (4096, 1024))
        side = packing_of("side by side, half")
        self.assertEqual(side.eye((4096, 2048)), (2048, 2048))
        # half side by side squeezes each eye to 50 % horizontally (common practice, no source)
        self.assertEqual((side.frame((1920, 1080)), side.stretch()), ((1920, 1080), 2))


class Timecode(unittest.TestCase):
    def test_counts_whole_frames(self) -> None:
        # SMPTE ST 12-1, non-drop: 24000/1001 counts 24 to the second; an hour is 86 400 frames
        film = Fraction(24000, 1001)
        self.assertEqual(timecode_of(86_400, film), "1:00:00:00")
        self.assertEqual(timecode_of(1499, Fraction(25)), "0:00:59:24")
        for frame in (0, 23, 24, 1439, 86_399, 200_000):
            self.assertEqual(frame_of(timecode_of(frame, film), film), frame)
        self.assertEqual(frame_of("120", film), 120)

    def test_refuses_what_is_no_time(self) -> None:
        for text in ("", "1:2:3:4:5", "-1", "0:00:00:24", "one", "1::2"):
            with self.subTest(text=text), self.assertRaises(ValueError):
                frame_of(text, Fraction(24))
