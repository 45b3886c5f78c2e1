"""Telling pairs are cut where a harm lies, whole where it is everywhere; bands by means."""

import io
from fractions import Fraction
from unittest import TestCase

import numpy as np
from PIL import Image

from shapkeen.core.declared import read_declaration
from shapkeen.core.judged import plan_reading
from shapkeen.core.measured import Source
from shapkeen.core.rehearsed.telling import CUT, WHOLE, film_band, telling_pair
from tests.builders import media
from tests.builders.media import SDR, write

SQUARE = (1, 1)


def source(path: object) -> Source:
    return Source(path, plan_reading(read_declaration(path)))


def pixels(png: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGB"), dtype=float)


class Telling(TestCase):
    def pair(self, export: object, *, whole: bool = False):
        sources = source(media.sdr_master("coffee")), source(export)
        return telling_pair(sources, (3, 3), display="plain", aspects=(SQUARE, SQUARE), whole=whole)

    def test_a_harm_in_one_place_is_cut_to(self) -> None:
        # A patch from 60 to 80 % across and 10 to 30 % down, its luma raised by a fifth of white.
        planes = []
        for luma, cb, cr in media.sdr_planes("coffee"):
            harmed = luma.copy()
            high, wide = harmed.shape
            rows, columns = slice(high // 10, 3 * high // 10), slice(6 * wide // 10, 8 * wide // 10)
            harmed[rows, columns] = np.minimum(harmed[rows, columns].astype(int) + 44, 235)
            planes.append((harmed, cb, cr))
        found = self.pair(write("telling-patch", planes, SDR))
        left, top, width, height = found.cut
        self.assertEqual((width, height), (CUT, CUT))
        self.assertTrue(left <= 0.61 and left + width >= 0.79, found.cut)
        self.assertTrue(top <= 0.12 and top + height >= 0.28, found.cut)
        master, export = pixels(found.master_png), pixels(found.export_png)
        self.assertEqual(master.shape, export.shape)
        self.assertGreater(np.abs(master - export).mean(), 5)
        self.assertEqual(self.pair(write("telling-patch", planes, SDR), whole=True).cut, WHOLE)

    def test_a_harm_everywhere_is_shown_whole(self) -> None:
        planes = media.changed(
            media.sdr_planes("coffee"), luma=lambda luma: 16 + (luma - 16.0) * 0.8
        )
        self.assertEqual(self.pair(write("telling-dark", planes, SDR)).cut, WHOLE)

    def test_pictures_of_other_shapes_are_shown_whole(self) -> None:
        planes = media.padded(media.sdr_planes("coffee"), top=16, bottom=16)
        self.assertEqual(self.pair(write("telling-padded", planes, SDR)).cut, WHOLE)

    def test_a_band_has_a_column_a_frame_as_light_as_the_frame(self) -> None:
        shades = (40, 90, 140, 190)
        planes = []
        for shade in shades:
            luma = np.full((64, 96), shade, np.uint8)
            half = np.full((32, 48), 128, np.uint8)
            planes += [(luma, half, half.copy())] * 2
        path = write("telling-band", planes, SDR)
        band = pixels(film_band(source(path), range(8), display="plain", aspect=SQUARE))
        self.assertEqual(band.shape[1], 8)
        # Limited range, ITU-R BT.709: (code - 16) / 219 of white.
        wanted = [255 * (shade - 16) / 219 for shade in shades for _ in range(2)]
        np.testing.assert_allclose(band.mean(axis=(0, 2)), wanted, atol=3)
        rate = source(path).reading.rate
        self.assertGreater(rate, Fraction(1))
        thin = pixels(film_band(source(path), [0, 4, 4, 7], display="plain", aspect=SQUARE))
        self.assertEqual(thin.shape[1], 4)
