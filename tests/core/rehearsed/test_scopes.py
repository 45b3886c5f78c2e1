"""Scopes of a moment: against counts by numpy, and pure colours by the colour-science library."""

from unittest import TestCase

import colour
import numpy as np

from shapkeen.core.colour.coding import Coding
from shapkeen.core.measured import Reading
from shapkeen.core.measured.alignment.picture_map import PictureMap
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.decoded.grid import Rect
from shapkeen.core.measured.model import VECTOR_BINS, WAVE_COLUMNS, WAVE_LEVELS
from shapkeen.core.rehearsed.moment import Moment
from shapkeen.core.rehearsed.probe import Area
from shapkeen.core.rehearsed.scopes import TONE_BINS, scopes_of
from shapkeen.core.reported.figures.scopes import scope_figures

SDR = Reading(full_range=False, transfer=1, matrix=1, primaries=1, rate=24, frame_count=1)
OWN = Coding(transfer=1, primaries=1, matrix=1, full_range=False)


def frame_of(luma: np.ndarray, cb: int = 512, cr: int = 512, depth: int = 10) -> Frame:
    half = (luma.shape[0] // 2, luma.shape[1] // 2)
    kind = np.uint8 if depth == 8 else np.uint16
    blue, red = (np.full(half, code, kind) for code in (cb, cr))
    return Frame(number=0, depth=depth, luma=luma.astype(kind), cb=blue, cr=red)


def moment(master: Frame, export: Frame, rect: Rect = Rect()) -> Moment:  # noqa: B008
    return Moment(master, export, SDR, SDR, PictureMap(rect, 0, False, OWN, OWN))


class Waves(TestCase):
    def test_every_sample_is_counted_in_its_column_and_level(self) -> None:
        luma = np.random.default_rng(3).integers(64, 941, (90, 192))
        found = scopes_of(moment(frame_of(luma), frame_of(luma))).master
        columns = np.repeat(np.arange(WAVE_COLUMNS), 2)
        expected, *_ = np.histogram2d(
            luma.ravel(),
            np.tile(columns, 90),
            bins=(WAVE_LEVELS, WAVE_COLUMNS),
            range=((0, 1024), (0, WAVE_COLUMNS)),
        )
        np.testing.assert_array_equal(found.wave, expected)
        self.assertEqual(found.samples, luma.size)

    def test_depths_stand_on_one_scale(self) -> None:
        # ITU-R BT.709 and BT.2100: limited range is shifted from 8 to 10 bits: 235 is 940.
        ramp = np.tile(np.arange(16, 236), (4, 1))
        pair = scopes_of(moment(frame_of(ramp * 4), frame_of(ramp, 128, 128, depth=8)))
        np.testing.assert_array_equal(pair.master.wave, pair.export.wave)
        np.testing.assert_array_equal(pair.master.vector, pair.export.vector)

    def test_an_area_is_of_the_same_place_in_both(self) -> None:
        bright = np.full((80, 160), 200)
        bright[20:40, 40:80] = 800
        wide = np.full((100, 160), 64)  # the export has the picture between bars
        wide[10:90] = bright
        inside = moment(frame_of(bright), frame_of(wide), Rect(0.0, 0.1, 1.0, 0.8))
        found = scopes_of(inside, Area(0.25, 0.25, 0.25, 0.25))
        level = 800 * WAVE_LEVELS // 1024
        for scope in (found.master, found.export):
            self.assertEqual(scope.wave.sum(), scope.wave[level].sum())
            self.assertEqual(scope.samples, 20 * 40)
        self.assertEqual(set(np.flatnonzero(found.tone)), {(800 * TONE_BINS // 1024) * 65})


class Vectors(TestCase):
    def test_pure_colours_stand_in_their_boxes(self) -> None:
        # Bars of 75 % (SMPTE RP 219 from memory), brought to Y'CbCr by the colour-science library.
        for rgb in ((1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (0, 1, 1), (1, 0, 1)):
            codes = colour.RGB_to_YCbCr(
                np.array(rgb) * 0.75, colour.WEIGHTS_YCBCR["ITU-R BT.709"], out_bits=10,
                out_legal=True, out_int=True,
            )  # fmt: skip
            luma, cb, cr = (int(code) for code in codes)
            flat = frame_of(np.full((32, 32), luma), cb, cr)
            found = scopes_of(moment(flat, flat)).export.vector
            place = (cr * VECTOR_BINS // 1024, cb * VECTOR_BINS // 1024)
            self.assertEqual(found[place], 32 * 32, rgb)

    def test_the_drawings_name_what_they_show(self) -> None:
        flat = frame_of(np.full((32, 32), 500))
        drawn = scope_figures(scopes_of(moment(flat, flat)))
        self.assertEqual(len(drawn), 3)
        self.assertIn("Waveform of the export", drawn[1])
        self.assertIn("delivered by expected", drawn[2])


class Tones(TestCase):
    def test_a_kept_picture_lies_on_the_line_and_a_lifted_one_above(self) -> None:
        ramp = np.tile(np.linspace(100, 900, 160).astype(int), (80, 1))
        kept = scopes_of(moment(frame_of(ramp), frame_of(ramp))).tone
        rows, columns = np.nonzero(kept)
        self.assertLessEqual(np.abs(rows - columns).max(), 1)
        lifted = scopes_of(moment(frame_of(ramp), frame_of(ramp + 64))).tone
        rows, columns = np.nonzero(lifted)
        self.assertTrue(((rows - columns) >= 3).all())
