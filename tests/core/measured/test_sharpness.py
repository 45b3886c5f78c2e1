"""Fine structure against known filters.

The transfer of a Gaussian blur is exp(-2 (pi sigma f)^2), f in cycles a sample (the Fourier pair of
the Gaussian, any handbook); an ideal low-pass ends at its own frequency.
"""

import unittest
from dataclasses import replace
from itertools import product

import cv2
import numpy as np
from skimage import data

from shapkeen.core.colour.coding import Coding
from shapkeen.core.measured.alignment.picture_map import PictureMap
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.decoded.grid import Rect
from shapkeen.core.measured.detail.crops import MARGIN, Crop, cut_crop
from shapkeen.core.measured.detail.sharpness import find_sharpness
from tests.builders.comparing import shared_out

SDR = Coding(transfer=1, primaries=1, matrix=1, full_range=False)
PHOTOS = ("astronaut", "coffee", "chelsea", "rocket")


def luma(photo: str) -> np.ndarray:
    """Return 480 samples of luma in 10-bit codes, with a little grain: structure up to Nyquist."""
    picture = getattr(data, photo)().astype(np.float32)[..., :3] @ (0.2126, 0.7152, 0.0722)
    chance = np.random.default_rng(3)
    grown = cv2.resize(picture, (640, 480), interpolation=cv2.INTER_AREA)[:, 80:560]
    return (64 + 876 / 255 * grown + chance.normal(0, 6, (480, 480))).astype(np.float32)


def crop(master: np.ndarray, export: np.ndarray) -> Crop:
    return Crop(master, export.astype(np.float32), 0.0, 0.0, (1.0, 1.0))


def found(photo: str, act):
    master = luma(photo)
    return find_sharpness([crop(master, act(master))])


def low_passed(plane: np.ndarray, share: float) -> np.ndarray:
    """Return a plane without anything above a share of Nyquist, across and down."""
    spectrum = np.fft.fft2(plane)
    for axis in (0, 1):
        frequency = np.abs(np.fft.fftfreq(plane.shape[axis])) * 2
        keep = (frequency < share).astype(float)
        spectrum = spectrum * (keep[:, None] if axis == 0 else keep[None, :])
    return np.fft.ifft2(spectrum).real


class KnownFilters(unittest.TestCase):
    def test_a_gaussian_has_its_own_transfer(self) -> None:
        for sigma in (0.6, 0.9, 1.4):
            told = found("astronaut", lambda m, s=sigma: cv2.GaussianBlur(m, (0, 0), s))
            for curve in (told.across, told.down):
                for at in (4, 8, 12, 16):
                    f = curve.frequency[at] / 2
                    goal = np.exp(-2 * (np.pi * sigma * f) ** 2)
                    # the other axis takes part with up to a quarter of Nyquist
                    self.assertAlmostEqual(curve.transfer[at], goal, delta=0.06)
            fit = told.fit("softened")
            self.assertLess(fit.residual, 0.2 * told.residual("identity"))
            self.assertAlmostEqual(fit.values["sigma"] / sigma, 1, delta=0.13)
            self.assertTrue(told.steepness is None or told.steepness > 2.15, sigma)

    def test_effective_resolution_of_ideal_low_passes(self) -> None:
        errors = []
        shares = (0.3, 0.45, 0.5, 0.6, 0.75, 0.85)
        for _, (photo, share) in shared_out([*product(PHOTOS, shares)], 0, 2):
            told = found(photo, lambda m, s=share: low_passed(m, s))
            errors += [abs(c.effective / share - 1) for c in (told.across, told.down)]
        self.assertLess(np.median(errors), 0.03)
        self.assertLess(max(errors), 0.08)

    def test_enlargements_are_told_by_size_and_kernel(self) -> None:
        kernels = (("cubic", cv2.INTER_CUBIC), ("lanczos", cv2.INTER_LANCZOS4))
        cases = [*product((0.5, 2 / 3, 0.75), PHOTOS, kernels)]
        for _, (share, photo, (name, way)) in shared_out(cases, 0):

            def act(m, s=share, w=way):
                size = (round(m.shape[1] * s), round(m.shape[0] * s))
                small = cv2.resize(m, size, interpolation=cv2.INTER_AREA)
                return cv2.resize(small, m.shape[::-1], interpolation=w)

            told = found(photo, act).fits[0]
            with self.subTest(photo, share=share, kernel=name):
                self.assertEqual(told.act, "detail-below-raster")
                self.assertAlmostEqual(told.values["across"], share, delta=0.01)
                self.assertEqual(told.kernel, name)

    def test_repeated_samples(self) -> None:
        for ratio in (2, 3, 4):
            told = found("coffee", lambda m, r=ratio: m[::r, ::r].repeat(r, 0).repeat(r, 1))
            self.assertEqual(
                (told.fits[0].act, told.fits[0].values["ratio"]), ("upscale-nearest", ratio)
            )

    def test_an_unsharp_mask(self) -> None:
        for sigma, amount in ((0.9, 0.8), (1.4, 0.5)):
            told = found(
                "rocket", lambda m, s=sigma, a=amount: m + a * (m - cv2.GaussianBlur(m, (0, 0), s))
            )
            self.assertEqual(told.fits[0].act, "oversharpened")
            self.assertAlmostEqual(told.fits[0].values["amount"], amount, delta=0.1)
            self.assertGreater(told.transfer, 1.2)

    def test_a_copy_and_another_tone_need_no_act(self) -> None:
        for act in (lambda m: m, lambda m: 64 + np.maximum(m - 64, 0) ** 1.1 / 876**0.1):
            told = found("chelsea", act)
            self.assertEqual([fit.act for fit in told.fits], ["identity"])
            self.assertAlmostEqual(told.transfer, 1.0, delta=0.06)
            self.assertEqual((told.across.effective, told.down.effective), (1.0, 1.0))

    def test_a_picture_without_structure_tells_nothing(self) -> None:
        smooth = np.tile(np.linspace(100, 900, 480, dtype=np.float32), (480, 1))
        self.assertIsNone(find_sharpness([crop(smooth, smooth)]))
        self.assertIsNone(find_sharpness([]))


class Cutting(unittest.TestCase):
    """A crop's parts show the same place, whatever lies between the rasters."""

    def frame(self, plane: np.ndarray) -> Frame:
        codes = np.clip(plane, 0, 1023).astype(np.uint16)
        grey = np.full((codes.shape[0] // 2, codes.shape[1] // 2), 512, np.uint16)
        return Frame(number=0, depth=10, luma=codes, cb=grey, cr=grey)

    def cut(self, master: np.ndarray, export: np.ndarray, rect: Rect, **turn) -> Crop:
        picture_map = replace(PictureMap(rect, 0, False, SDR, SDR), **turn)
        made = cut_crop(self.frame(master), self.frame(export), picture_map, full_range=False)
        assert made is not None
        return made

    def test_the_same_samples_where_nothing_moved(self) -> None:
        made = self.cut(luma("coffee"), luma("coffee"), Rect())
        np.testing.assert_array_equal(made.expected(cv2.INTER_CUBIC), made.export)

    def test_a_cut_a_shift_and_an_enlargement(self) -> None:
        whole = cv2.GaussianBlur(luma("astronaut"), (0, 0), 2)
        cut = self.cut(whole, whole[40:440, 30:450], Rect(-30 / 420, -0.1, 480 / 420, 1.2))
        np.testing.assert_allclose(cut.expected(cv2.INTER_CUBIC), cut.export, atol=1.01)
        self.assertLessEqual(cut.left, MARGIN)
        twice = cv2.resize(whole, (960, 960), interpolation=cv2.INTER_CUBIC)
        large = self.cut(whole, twice, Rect())
        self.assertEqual(large.scale, (2.0, 2.0))
        off = np.abs(large.expected(cv2.INTER_CUBIC) - large.export)[16:-16, 16:-16]
        self.assertLess(float(off.max()), 2.1)
        half = cv2.resize(whole, (240, 240), interpolation=cv2.INTER_AREA)
        small = self.cut(whole, half, Rect())
        off = np.abs(small.expected(cv2.INTER_CUBIC) - small.export)[16:-16, 16:-16]
        self.assertLess(float(np.median(off)), 2.0)

    def test_a_mirrored_picture(self) -> None:
        whole = luma("rocket")
        made = self.cut(whole, whole[:, ::-1], Rect(), mirrored=True)
        np.testing.assert_array_equal(made.expected(cv2.INTER_CUBIC), made.export)

    def test_too_little_in_common(self) -> None:
        frames = self.frame(luma("coffee")), self.frame(luma("coffee"))
        picture_map = PictureMap(Rect(0.9, 0, 1, 1), 0, False, SDR, SDR)
        self.assertIsNone(cut_crop(*frames, picture_map, full_range=False))
