"""Viewers' screens: bars, crop, scale and angles by arithmetic, and the pictures themselves."""

import unittest
from dataclasses import dataclass
from fractions import Fraction
from math import atan, degrees

import numpy as np
from skimage import data

from shapkeen.core.measured import Reading
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.rehearsed.viewers import Layout, fit_on, rendition_for, screen_named
from shapkeen.core.rehearsed.viewers.showing import View, shown

READING = Reading(
    full_range=False, transfer=1, matrix=1, primaries=1, rate=Fraction(24), frame_count=1
)
WIDE = Layout(raster=(1920, 1080))


def grey(values: np.ndarray, transfer: int = 1) -> tuple[Frame, Reading]:
    """Return a grey frame of signals 0..1 (row, column), limited range on ten bits."""
    luma = np.round(64 + values * 876).astype(np.uint16)
    half = np.full((luma.shape[0] // 2, luma.shape[1] // 2), 512, np.uint16)
    frame = Frame(number=0, depth=10, luma=luma, cb=half, cr=half.copy())
    codes = {"transfer": transfer, "primaries": 9 if transfer > 14 else 1}
    return frame, Reading(full_range=False, matrix=1, rate=Fraction(24), frame_count=1, **codes)


class Fits(unittest.TestCase):
    def test_bars_and_scale_by_arithmetic(self) -> None:
        for screen, layout, bars, size in (
            ("plain", WIDE, {}, (1920, 1080)),
            # 1170 wide: 1170 · 9/16 = 658 high; 2532 − 658 = 1874, half above and half below.
            ("phone-upright", WIDE, {"top": 937, "bottom": 937}, (1170, 658)),
            # 1170 · 16/9 = 2080 wide; 2532 − 2080 = 452.
            ("phone-turned", WIDE, {"left": 226, "right": 226}, (2080, 1170)),
            ("wide", WIDE, {"left": 440, "right": 440}, (2560, 1440)),
            # 2.39:1 on 16:9: 1920 / 2.39 = 803 high.
            ("plain", Layout(raster=(1920, 803)), {"top": 138, "bottom": 139}, (1920, 803)),
            ("plain", Layout(raster=(1440, 1080), aspect=(4, 3)), {}, (1920, 1080)),
            ("plain", Layout(raster=(1080, 1350)), {"left": 528, "right": 528}, (864, 1080)),
        ):
            with self.subTest(screen, raster=layout.raster):
                fit = fit_on(screen_named(screen), layout)
                self.assertEqual((fit.width, fit.height), size)
                self.assertEqual(fit.bars, bars)
                self.assertEqual(fit.cut, 0.0)

    def test_an_upright_picture_fills_an_upright_phone_and_loses_its_sides(self) -> None:
        fit = fit_on(screen_named("phone-upright"), Layout(raster=(1080, 1920)))
        # 2532 · 9/16 = 1424 wide on 1170: 1 − 1170/1424 = 17.8 % is cut off.
        self.assertEqual((fit.width, fit.height), (1424, 2532))
        self.assertAlmostEqual(fit.cut, 0.178, delta=0.001)
        self.assertEqual(fit.bars, {})

    def test_samples_a_degree(self) -> None:
        fit = fit_on(screen_named("hdr"), WIDE)
        angle = degrees(2 * atan(1.43 / 2 / 2.6))
        self.assertAlmostEqual(fit.angle_deg, angle, places=6)
        self.assertAlmostEqual(fit.samples_a_degree, 1920 / angle, places=6)
        self.assertTrue(fit.is_finer_than_eyes)
        dome = Layout(raster=(3840, 1920), projection="equirectangular")
        # 3840 samples go round 360°: 10.7 a degree, in a headset as everywhere on the sphere.
        fit = fit_on(screen_named("headset"), dome)
        self.assertAlmostEqual(fit.samples_a_degree, 3840 / 360)
        self.assertTrue(fit.is_window)

    def test_two_eyes_have_the_shape_of_one(self) -> None:
        half = fit_on(screen_named("glasses"), Layout(raster=(1920, 1080), stereo="left-right"))
        self.assertEqual((half.width, half.height), (1920, 1080))
        full = fit_on(screen_named("glasses"), Layout(raster=(3840, 1080), stereo="left-right"))
        self.assertEqual((full.width, full.height), (1920, 1080))


@dataclass(frozen=True)
class Offer:
    branch: str
    lines: int
    arrives_s: float


class Choices(unittest.TestCase):
    def test_a_screen_takes_what_is_there_and_what_it_can_show(self) -> None:
        offers = (
            Offer("sdr", 360, 60),
            Offer("sdr", 1080, 900),
            Offer("sdr", 2160, 900),
            Offer("hdr", 1080, 14_400),
        )
        for screen, at_s, wanted in (
            ("plain", 10, None),
            ("plain", 60, 0),
            ("plain", 1000, 1),
            ("hdr", 1000, 2),
            ("hdr", 15_000, 3),
            ("plain", 15_000, 1),
            ("old", 15_000, 1),
            ("phone-turned", 1000, 1),
        ):
            with self.subTest(screen, at_s=at_s):
                self.assertEqual(rendition_for(screen_named(screen), offers, at_s), wanted)


class Pictures(unittest.TestCase):
    def test_bars_are_black_and_the_picture_is_all_there(self) -> None:
        frame, reading = grey(np.full((1080, 1920), 0.5))
        picture = shown(frame, reading, screen_named("phone-turned"), WIDE)
        self.assertEqual(picture.shape, (739, 1600, 3))  # 2532 × 1170, at most 1600 a side
        lit = (picture > 0.25).any(axis=(0, 2))
        self.assertAlmostEqual(int(lit.sum()), 2080 * 1600 / 2532, delta=1)

    def test_a_brighter_hdr_screen_shows_more_of_the_highlights(self) -> None:
        # PQ signals of 100, 500 and 1000 cd/m² (SMPTE ST 2084): 0.508, 0.677, 0.752.
        steps = np.repeat([0.508, 0.677, 0.752], 40)[None].repeat(90, axis=0)
        frame, reading = grey(steps, 16)
        layout = Layout(raster=(120, 90))
        parts = {}
        for peak in (400, 1000):
            screen = screen_named("hdr").with_peak(peak)
            row = shown(frame, reading, screen, layout)[450, :, 1]
            lit = row[row > 0.05]
            parts[peak] = [float(lit[int(len(lit) * at)]) for at in (0.17, 0.5, 0.83)]
        self.assertLess(parts[400][2] - parts[400][1], parts[1000][2] - parts[1000][1])
        # On a screen of the mastered peak nothing is rolled off: light is put out as it is.
        wanted = (500 / 1000) ** (1 / 2.2)
        self.assertAlmostEqual(parts[1000][1], wanted, delta=0.03)

    def test_a_sphere_is_looked_into_and_an_unrecognised_one_lies_flat(self) -> None:
        ramp = np.linspace(0, 1, 720)[None].repeat(360, axis=0)
        frame, reading = grey(ramp)
        dome = Layout(raster=(720, 360), projection="equirectangular")
        window = shown(frame, reading, screen_named("plain"), dome)
        # Ahead lies the middle; 90° across show a quarter of the ramp: 3/8 to 5/8.
        row = window[window.shape[0] // 2, :, 1]
        self.assertAlmostEqual(float(row[0]), 3 / 8, delta=0.01)
        self.assertAlmostEqual(float(row[-1]), 5 / 8, delta=0.01)
        flat = shown(frame, reading, screen_named("plain"), Layout(raster=(720, 360)))
        self.assertLess(float(flat[flat.shape[0] // 2, 2, 1]), 0.05)

    def test_glasses_show_both_eyes_and_plain_screens_the_left_one(self) -> None:
        left, right, _ = data.stereo_motorcycle()
        both = np.concatenate([left[:400, :640, 1], right[:400, :640, 1]], axis=1) / 255
        frame, reading = grey(both)
        layout = Layout(raster=(1280, 400), stereo="left-right")
        plain = shown(frame, reading, screen_named("plain"), layout)
        exchanged = Layout(raster=(1280, 400), stereo="right-left")
        other = shown(frame, reading, screen_named("plain"), exchanged, View(eye=1))
        self.assertLess(float(np.abs(plain - other).max()), 1e-6)
        glasses = shown(frame, reading, screen_named("glasses"), layout)
        colours = np.abs(glasses[..., 0] - glasses[..., 2])
        self.assertGreater(
            float(colours.mean()), float(np.abs(plain[..., 0] - plain[..., 2]).mean())
        )
