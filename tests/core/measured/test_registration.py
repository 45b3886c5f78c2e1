"""Registration against known affine warps of photographs (scikit-image's open samples), and against
scikit-image's own registration; windows of a picture; what must not be guessed."""

import os
import unittest
from functools import lru_cache
from unittest import mock

import cv2
import numpy as np
from scipy.ndimage import fourier_shift
from skimage import data
from skimage.registration import phase_cross_correlation

from shapkeen.core.measured.alignment.place.registration import Inside, Place, place_one, register
from shapkeen.core.measured.alignment.place.turning import best_turn, turned
from shapkeen.core.measured.alignment.place.uncovered import uncovered
from shapkeen.core.measured.alignment.place.windows import window_place
from shapkeen.core.measured.decoded.grid import Rect
from tests.builders.comparing import EVERY
from tests.builders.media import PHOTOS

WARPS = 200 if os.environ.get(EVERY) else 24


@lru_cache
def photograph(name: str) -> np.ndarray:
    """Return a photograph's luma on the 10-bit scale."""
    grey = cv2.cvtColor(getattr(data, name)(), cv2.COLOR_RGB2GRAY)
    return grey.astype(np.float32) * 4


def warped(picture: np.ndarray, place: Rect, size: tuple[int, int]) -> np.ndarray:
    """Return a picture drawn at a place (fractions) of a raster, area-averaged where smaller."""
    height, width = picture.shape
    scale = size[0] * place.width / width, size[1] * place.height / height
    small = (round(width * min(scale[0], 1)), round(height * min(scale[1], 1)))
    drawn = cv2.resize(picture, small, interpolation=cv2.INTER_AREA)
    step = [size[i] * (place.width, place.height)[i] / small[i] for i in (0, 1)]
    left, top = size[0] * place.left, size[1] * place.top
    # sample centres lie at half
    matrix = np.array(
        [[step[0], 0, left + step[0] / 2 - 0.5], [0, step[1], top + step[1] / 2 - 0.5]]
    )
    return cv2.warpAffine(drawn, matrix, size, flags=cv2.INTER_CUBIC, borderValue=64)


def off_by(found: object, place: Rect, size: tuple[int, int]) -> float:
    """Return by how many export samples the shown edges of the picture are off."""
    worst = 0.0
    for side, low, span, got, wide in (
        (size[0], place.left, place.width, found.left, found.width),
        (size[1], place.top, place.height, found.top, found.height),
    ):
        for edge in (max(low, 0.0), min(low + span, 1.0)):
            part = (edge - low) / span
            worst = max(worst, abs(got + part * wide - edge * side))
    return worst


class KnownWarps(unittest.TestCase):
    def test_random_scales_shifts_tones_and_noise(self) -> None:
        chance = np.random.default_rng(20261126)
        errors = []
        for number in range(WARPS):
            picture = photograph(PHOTOS[number % 4])
            size = tuple(2 * int(n) for n in chance.integers((120, 80), (260, 180)))
            wide, high = chance.uniform(0.75, 1.5, 2)
            left, top = chance.uniform(-0.15, 0.15, 2) + (1 - np.array((wide, high))) / 2
            place = Rect(left, top, wide, high)
            export = warped(picture, place, size)
            export = 64 + 876 * np.clip((export - 64) / 876, 0, 1) ** chance.uniform(0.85, 1.2)
            export = (export + chance.normal(0, 4, export.shape)).astype(np.float32)
            found = register(
                [(picture, export)],
                master_active=Rect(),
                export_active=Rect(),
                export_raster=size,
            )
            self.assertIsNotNone(found, (number, place))
            errors.append(off_by(found, place, size))
        # A few hundredths of a sample, of one noisy frame whose tone was bent; the worst are dark.
        self.assertLess(float(np.median(errors)), 0.07)
        self.assertLess(float(np.percentile(errors, 95)), 0.15)
        self.assertLess(max(errors), 0.5)

    def test_shifts_agree_with_scikit_image(self) -> None:
        chance = np.random.default_rng(7)
        for number in range(24):
            picture = cv2.GaussianBlur(photograph(PHOTOS[number % 4]), (0, 0), 1.2)
            height, width = picture.shape
            dx, dy = chance.uniform(-9, 9, 2)
            # Moved in a ring, exactly, so that theirs (which thinks in rings) can find it.
            moved = fourier_shift(np.fft.fft2(picture), (dy, dx))
            export = np.fft.ifft2(moved).real.astype(np.float32)
            theirs, _, _ = phase_cross_correlation(export, picture, upsample_factor=50)
            found = register(
                [(picture, export)],
                master_active=Rect(),
                export_active=Rect(),
                export_raster=(width, height),
            )
            with self.subTest(photo=PHOTOS[number % 4], dx=dx, dy=dy):
                self.assertAlmostEqual(found.left, theirs[1], delta=0.06)
                self.assertAlmostEqual(found.top, theirs[0], delta=0.06)


class Windows(unittest.TestCase):
    def place(self, name: str, part: Rect, size: tuple[int, int]) -> object:
        picture = photograph(name)
        whole = Rect(
            -part.left / part.width, -part.top / part.height, 1 / part.width, 1 / part.height
        )
        export = warped(picture, whole, size)
        shape = size[0] * picture.shape[0] / (size[1] * picture.shape[1])
        found = register(
            [(picture, export)] * 2,
            master_active=Rect(),
            export_active=Rect(),
            export_raster=size,
            shapes=(shape,),
        )
        self.assertIsNotNone(found, (name, part))
        return off_by(found, whole, size)

    def test_an_upright_window_is_found_wherever_it_lies(self) -> None:
        for name in PHOTOS:
            height, width = photograph(name).shape
            share = height * 0.5 / width  # 1:2 out of the full height
            for left in (0.1, 0.33, 0.6):
                with self.subTest(photo=name, left=left):
                    self.assertLess(self.place(name, Rect(left, 0, share, 1), (240, 480)), 0.5)

    def test_a_zoomed_window_is_found(self) -> None:
        for name in PHOTOS:
            with self.subTest(photo=name):
                self.assertLess(self.place(name, Rect(0.2, 0.3, 0.5, 0.4), (400, 240)), 0.5)

    def test_unrelated_pictures_have_no_place(self) -> None:
        for one, other in zip(PHOTOS, PHOTOS[1:] + PHOTOS[:1], strict=True):
            pair = photograph(one), photograph(other)[:, 100:300]
            found = register(
                [pair],
                master_active=Rect(),
                export_active=Rect(),
                export_raster=(200, pair[1].shape[0]),
                shapes=(0.4,),
            )
            self.assertIsNone(found, (one, other))

    def test_too_small_windows_are_not_looked_for(self) -> None:
        picture = cv2.resize(photograph("coffee"), (512, 288))
        self.assertIsNotNone(window_place(picture, picture[:, 100:200], (100 / 512,)))
        self.assertIsNone(window_place(picture, picture[:, 100:105], (0.01,)))


class Covered(unittest.TestCase):
    """What covers a quarter of a picture hides it, and makes no other one of it."""

    def covered(self, name: str) -> np.ndarray:
        picture = photograph(name).copy()
        height, width = picture.shape
        picture[: height // 8] = picture[-height // 8 :] = 64
        picture[height // 2 : height // 2 + 60, 20 : width // 3] = 940
        return picture

    def test_it_is_found_where_it_was(self) -> None:
        for name in PHOTOS:
            picture, size = self.covered(name), photograph(name).shape[::-1]
            found = register(
                [(photograph(name), picture)],
                master_active=Rect(),
                export_active=Rect(),
                export_raster=size,
            )
            with self.subTest(name):
                self.assertIsNotNone(found)
                self.assertLess(off_by(found, Rect(), size), 1.0)

    def test_what_covers_is_left_out(self) -> None:
        size = (512, 288)
        for name in PHOTOS:
            one, other = (
                cv2.resize(p, size, interpolation=cv2.INTER_AREA)
                for p in (photograph(name), self.covered(name))
            )
            seen = uncovered(one, other, np.ones(one.shape, bool))
            with self.subTest(name):
                self.assertLess(seen[148:170, 25:150].mean(), 0.02)
                self.assertGreater(seen[50:130, 200:].mean(), 0.6)

    def test_other_photographs_follow_nowhere(self) -> None:
        size = (512, 288)
        small = [cv2.resize(photograph(n), size, interpolation=cv2.INTER_AREA) for n in PHOTOS]
        for one, other in zip(small, small[1:] + small[:1], strict=True):
            self.assertIsNone(uncovered(one, other, np.ones(one.shape, bool)))


def sky() -> np.ndarray:
    """Return a smooth gradient, nearly alike up and down, with cables across: few samples tell."""
    x, y = np.meshgrid(np.linspace(0, 1, 640), np.linspace(0, 1, 360))
    picture = 500 + 260 * np.cos(2.2 * (x - 0.5)) + 60 * (y - 0.5)
    picture = picture.astype(np.float32)
    for start, end in (((0, 130), (270, 0)), ((340, 0), (520, 359)), ((180, 359), (639, 115))):
        cv2.line(picture, start, end, 240.0, 3, cv2.LINE_AA)
    return picture


class SmoothPictures(unittest.TestCase):
    """A sky is like itself wherever it lies, and however it is turned: its structure tells."""

    def test_between_bars_it_is_not_taken_for_stretched(self) -> None:
        soft = cv2.GaussianBlur(sky(), (0, 0), 1.8)
        export = np.pad(soft, ((44, 44), (0, 0)), constant_values=64)
        active = Rect(0, 44 / 448, 1, 360 / 448)
        for hint in (None, active):
            inside = Inside(Rect(), active, hint=hint, shapes=(1.0,))
            place = place_one(sky(), export, inside)
            self.assertAlmostEqual(place.rect.top * 448, 44, delta=0.5)
            self.assertAlmostEqual(place.rect.height * 448, 360, delta=1)

    def test_it_is_seen_mirrored(self) -> None:
        for turn, mirrored in ((0, True), (180, False), (0, False)):
            found = best_turn((sky(), turned(sky(), turn, mirrored=mirrored)), Rect())
            self.assertEqual(found, (turn, mirrored))

    def test_rough_coding_leaves_it_where_it_was(self) -> None:
        chance = np.random.default_rng(4)
        fine = photograph("coffee") + chance.normal(0, 260, photograph("coffee").shape)
        fine = fine.astype(np.float32)
        crawling = cv2.GaussianBlur(fine, (0, 0), 5) + chance.normal(0, 25, fine.shape)
        inside = Inside(Rect(), Rect())
        found = place_one(fine, crawling.astype(np.float32), inside)
        self.assertAlmostEqual(found.rect.left, 0, delta=1e-3)
        self.assertAlmostEqual(found.rect.width, 1, delta=1e-3)
        other = cv2.resize(photograph("rocket"), fine.shape[::-1])
        self.assertIsNone(place_one(fine, other, inside))


class OtherTones(unittest.TestCase):
    """Lights cut off become smaller or larger than they were: no picture moved by that."""

    def cut(self, picture: np.ndarray) -> np.ndarray:
        return np.minimum(picture, 64 + 0.45 * 876).astype(np.float32)

    def test_a_picture_whose_lights_were_cut_stays_in_its_place(self) -> None:
        for name in ("coffee", "chelsea"):  # both were a thousandth off
            picture = photograph(name)
            found = place_one(picture, self.cut(picture), Inside(Rect(), Rect()))
            with self.subTest(name):
                assert found is not None
                self.assertEqual(found.rect, Rect())

    def test_one_that_was_blown_out_is_no_corner_of_its_master(self) -> None:
        # a shore of which nearly all became white was 0.885 like a corner of it, enlarged 2.8 times
        picture, corner = photograph("coffee"), Rect(0.0, -0.96, 2.84, 2.88)
        low = float(np.percentile(picture, 12))
        blown = np.clip(64 + (picture - 64) * 876 / (low - 64), 64, 940).astype(np.float32)
        enlarged = warped(picture, corner, picture.shape[::-1])
        guessed = f"{place_one.__module__}._register_one"
        with mock.patch(guessed, return_value=Place(corner, 0.885)):
            found = place_one(picture, blown, Inside(Rect(), Rect()))
            self.assertEqual(found.rect, Rect())
            there = place_one(picture, enlarged, Inside(Rect(), Rect()))
            self.assertEqual(there.rect, corner)

    def test_one_that_was_moved_as_well_is_found_where_it_lies(self) -> None:
        for name in ("coffee", "chelsea"):
            picture = photograph(name)
            size = picture.shape[::-1]
            place = Rect(-0.004, 0.003, 1.008, 0.995)
            moved = self.cut(warped(picture, place, size))
            found = place_one(picture, moved, Inside(Rect(), Rect()))
            with self.subTest(name):
                assert found is not None
                self.assertNotEqual(found.rect, Rect())
                self.assertLess(abs(found.rect.left - place.left), 0.002)
                self.assertLess(abs(found.rect.width - place.width), 0.003)
