"""Stills as screens show them."""

import io
import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np
from skimage.io import imread

from shapkeen.core.declared import read_declaration
from shapkeen.core.errors import UnreadableFileError
from shapkeen.core.judged import plan_reading
from shapkeen.core.measured import Source
from shapkeen.core.rehearsed import DISPLAYS
from shapkeen.core.rehearsed.screen import RENDERERS, tone_mapped
from shapkeen.core.rehearsed.stills import (
    frame_at,
    render_around,
    render_still,
    shown_codes,
    sized_signals,
)
from tests.builders import media


def still(path, number: int = 0, *, display: str = "plain", aspect=(1, 1), most=(1600, 900)):
    source = Source(path, plan_reading(read_declaration(path)))
    return imread(
        io.BytesIO(render_still(source, number, display=display, aspect=aspect, most=most))
    )


class Stills(unittest.TestCase):
    def test_sdr_comes_out_as_it_went_in(self) -> None:
        shown = still(media.sdr_master("astronaut"), 4)
        wanted = media.photo_frames("astronaut")[4] * 255
        self.assertEqual(shown.shape, (360, 640, 3))
        # coding at CRF 4 and half-size chroma
        self.assertLess(float(np.abs(shown - wanted).mean()), 4.0)

    def test_pixel_aspect_widens_and_the_limit_shrinks(self) -> None:
        path = media.sdr_master("coffee", Fraction(4, 3))
        self.assertEqual(still(path, aspect=(4, 3)).shape[:2], (360, 853))
        self.assertEqual(still(path, aspect=(4, 3), most=(400, 400)).shape[1], 400)

    def test_undecoded_pq_looks_flat_and_milky(self) -> None:
        # trade fact (common practice, no source): PQ on a screen that ignores tags
        plain, toned = (
            still(media.hdr_master(), display=display) for display in ("plain", "toned")
        )
        self.assertLess(float(plain.std()), float(toned.std()))

    def test_missing_frame_is_told(self) -> None:
        with self.assertRaises(UnreadableFileError):
            still(media.sdr_master(), 10_000)

    def test_neighbours_come_after_the_frame_that_was_asked_for_and_are_the_same(self) -> None:
        path = media.sdr_master("astronaut")
        source = Source(path, plan_reading(read_declaration(path)))
        how = {"display": "plain", "aspect": (1, 1), "most": (320, 180)}
        drawn = list(render_around(source, 5, [4, 6, 3, -1, 7, 900], **how))
        self.assertEqual([number for number, _ in drawn], [5, 6, 7, 3, 4])
        for number, png in drawn:
            self.assertEqual(png, render_still(source, number, **how))
        with self.assertRaises(UnreadableFileError):
            list(render_around(source, 900, [5], **how))

    def test_drawn_in_bands_is_as_drawn_at_once(self) -> None:
        source = Source(media.hdr_master(), plan_reading(read_declaration(media.hdr_master())))
        frame, most = frame_at(source, 3), (300, 170)  # no whole number of bands
        sized = sized_signals(frame, source.reading, (1, 1), most)
        for display in DISPLAYS:
            at_once = np.clip(RENDERERS[display](sized, source.reading), 0, 1) * 255
            banded = shown_codes(frame, source.reading, display, (1, 1), most)
            with self.subTest(display):
                self.assertEqual(banded.shape, at_once.shape)
                self.assertLess(float(np.abs(banded - at_once).max()), 1.0)

    def test_every_way_of_looking_is_there(self) -> None:
        self.assertEqual(set(RENDERERS), set(DISPLAYS))


class Folding(unittest.TestCase):
    def test_rolls_off_only_above_the_knee(self) -> None:
        light = np.array([0.1, 1.0, 5.0, 203.0, 1000.0])
        made = tone_mapped(light, source_nits=1000.0, goal_nits=203.0)
        np.testing.assert_allclose(made[:3], light[:3], rtol=1e-6)
        self.assertTrue((np.diff(made) > 0).all())
        self.assertAlmostEqual(float(made[-1]), 203.0, delta=1e-6)

    def test_hlg_is_folded_too(self) -> None:
        reading = plan_reading(read_declaration(media.hdr_master()))
        signals = np.full((4, 4, 3), 0.75, dtype=np.float32)
        shown = RENDERERS["toned"](signals, replace(reading, transfer=18))
        self.assertTrue(0.6 < float(shown.mean()) < 0.95)
