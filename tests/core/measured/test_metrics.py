"""Likeness against the FFmpeg libraries' own filters and scikit-image, on one pair of planes."""

import unittest
from fractions import Fraction

import av
import numpy as np
from av.filter import Graph
from skimage.metrics import peak_signal_noise_ratio

from shapkeen.core.colour.coding import Coding
from shapkeen.core.measured.decoded.metrics import (
    PEAK_CODES,
    colour_difference,
    psnr,
    quick_likeness,
    ssim,
)
from tests.builders.media import photo_frames

SIZE = (640, 360)
PQ = Coding(transfer=16, primaries=9, matrix=9, full_range=False)


def pair() -> tuple[np.ndarray, np.ndarray]:
    """Return luma in 8-bit codes of a photograph, and the same with noise and a blur."""
    luma = np.floor(photo_frames("coffee")[0][..., 1] * 219 + 16)
    chance = np.random.default_rng(8)
    blurred = (luma + np.roll(luma, 1, axis=1)) / 2
    return luma, np.clip(np.floor(blurred + chance.normal(0, 2, luma.shape) + 0.5), 0, 255)


def by_filter(name: str, key: str, planes: tuple[np.ndarray, np.ndarray]) -> float:
    """Return what a filter of the FFmpeg libraries says of two grey frames."""
    base, graph = Fraction(1, 24), Graph()
    sources = [
        graph.add_buffer(width=SIZE[0], height=SIZE[1], format="gray", time_base=base)
        for _ in planes
    ]
    compare, sink = graph.add(name), graph.add("buffersink")
    for place, source in enumerate(sources):
        source.link_to(compare, 0, place)
    compare.link_to(sink)
    graph.configure()
    for source, plane in zip(sources, planes, strict=True):
        made = av.VideoFrame.from_ndarray(plane.astype(np.uint8), format="gray")
        made.pts, made.time_base = 0, base
        source.push(made)
    for source in sources:
        source.push(None)
    return float(sink.pull().metadata[key])


class Likeness(unittest.TestCase):
    def test_psnr(self) -> None:
        one, other = pair()
        ours = psnr(one * 4, other * 4)
        theirs = peak_signal_noise_ratio(one * 4, other * 4, data_range=PEAK_CODES)
        self.assertAlmostEqual(ours, theirs, places=6)

    def test_psnr_and_ssim_against_the_ffmpeg_libraries_filters(self) -> None:
        one, other = pair()
        theirs = by_filter("psnr", "lavfi.psnr.psnr.y", (one, other))
        # the filter takes 255 as the peak, we take limited range's span of 219 codes
        ours = psnr(one * 4, other * 4) + 20 * np.log10(255 * 4 / PEAK_CODES)
        self.assertAlmostEqual(ours, theirs, places=4)
        # the filter weighs 8 × 8 blocks evenly, ours a Gaussian window of 11 × 11
        theirs = by_filter("ssim", "lavfi.ssim.Y", (one, other))
        # the same windows as theirs; they take a sample's variance, and n - 1 is 63 here
        quick = quick_likeness(one * 1023 / 255, other * 1023 / 255)
        self.assertAlmostEqual(quick[0], theirs, delta=0.001)
        self.assertAlmostEqual(quick[1], psnr(one * 1023 / 255, other * 1023 / 255), delta=0.001)
        self.assertAlmostEqual(ssim(one * 1023 / 255, other * 1023 / 255), theirs, delta=0.006)

    def test_a_copy_is_told_as_such(self) -> None:
        one, _ = pair()
        planes = {"luma": one * 4, "cb": one[::2, ::2] + 400, "cr": one[::2, ::2] + 400}
        planes = {name: plane.astype(np.float32) for name, plane in planes.items()}
        self.assertEqual(psnr(planes["luma"], planes["luma"]), 99.0)
        self.assertEqual(colour_difference(planes, planes, PQ), (0.0, 0.0))
        unknown = Coding(transfer=16, primaries=0, matrix=9, full_range=False)
        self.assertIsNone(colour_difference(planes, planes, unknown))

    def test_the_worst_region_is_found(self) -> None:
        planes = {"luma": np.full((360, 640), 500.0, np.float32)}
        planes |= {name: np.full((180, 320), 512.0, np.float32) for name in ("cb", "cr")}
        spoiled = {**planes, "luma": planes["luma"].copy()}
        spoiled["luma"][100:140, 200:240] = 560
        mean, worst = colour_difference(planes, spoiled, PQ)
        self.assertGreater(worst, 20 * mean)
