"""How far the export is from the expected picture, in units of eyes and of codes."""

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.codepoints import HDR_TRANSFERS
from ...colour.coding import SDR_WHITE_NITS, Coding, light_from_signal, signal_from_codes
from ...colour.difference import delta_e_2000, delta_e_itp, lab_from_xyz
from ...colour.primaries import between, xyz_from_rgb
from .grid import Real
from .loops import block_ssim, mean_ssim

TOP_CODE = 1023.0
PEAK_CODES = 876.0
"""PSNR is told against limited range's span on ten bits."""
RIM = 5
"""Half of SSIM's window: the map is left out where it reaches over the edge."""
PATCH = 4
"""Differences are seen on 4 × 4 means: of single samples, coding noise would be most of it."""
REGIONS = 40
LEAST_SIDE = 8
"""Samples: what a window of quick_likeness is wide."""


def psnr(expected: Real, delivered: Real) -> float:
    """Return the peak signal-to-noise ratio of two luma planes in dB, at most 99."""
    return _decibels(float(np.mean(np.square(expected.astype(np.float64) - delivered))))


def _decibels(error: float) -> float:
    return min(10 * float(np.log10(PEAK_CODES**2 / max(error, 1e-12))), 99.0)


def ssim(expected: Real, delivered: Real) -> float:
    """Return the mean structural similarity of two planes in 10-bit codes, up to 1.

    Source: Wang et al. 2004; Gaussian window of sigma 1.5 (11 × 11), population variance.
    """
    c1, c2 = (0.01 * TOP_CODE) ** 2, (0.03 * TOP_CODE) ** 2
    # Single precision is off by 1e-6 at most here, and twice as fast; a common offset, taken
    # out of the squares, would cost more than it saves.
    x, y = expected.astype(np.float32), delivered.astype(np.float32)

    def smooth(plane: Real) -> Real:
        return np.asarray(cv2.GaussianBlur(plane, (11, 11), 1.5, borderType=cv2.BORDER_REFLECT))

    maps = (smooth(x), smooth(y), smooth(x * x), smooth(y * y), smooth(x * y))
    return float(mean_ssim(*maps, c1, c2, RIM))


def quick_likeness(expected: Real, delivered: Real) -> tuple[float, float]:
    """Return SSIM and PSNR of two planes in 10-bit codes, each sample read once.

    SSIM over windows of 8 × 8, four apart, as Wang et al. 2004 began, of population variance: a
    tenth of the Gaussian's price. Smaller planes are compared by that.
    """
    c1, c2 = (0.01 * TOP_CODE) ** 2, (0.03 * TOP_CODE) ** 2
    if min(expected.shape) < LEAST_SIDE:
        return ssim(expected, delivered), psnr(expected, delivered)
    alike, error = block_ssim(expected, delivered, c1, c2)
    return float(alike), _decibels(float(error))


def light_difference(
    one: npt.NDArray[np.float64], other: npt.NDArray[np.float64], coding: Coding
) -> npt.NDArray[np.float64]:
    """Return the difference (…) of two pictures in linear light of coding's primaries, cd/m²."""
    if coding.transfer in HDR_TRANSFERS:
        step = between(coding.primaries, 9).T
        return delta_e_itp(one @ step, other @ step)
    step = xyz_from_rgb(coding.primaries).T / SDR_WHITE_NITS
    return delta_e_2000(lab_from_xyz(one @ step), lab_from_xyz(other @ step))


def difference_map(
    expected: dict[str, Real], delivered: dict[str, Real], coding: Coding, *, patch: int = PATCH
) -> npt.NDArray[np.float64] | None:
    """Return the difference (row, column) by patches; None where coding is not known.

    Planes hold luma, cb and cr in 10-bit codes on one grid, chroma at half size. patch: a side, in
    samples of luma.
    """
    if not coding.is_known:
        return None
    one, other = (
        light_from_signal(
            np.clip(signal_from_codes(_triples(p, patch), coding), 0, 1), coding.transfer
        )
        for p in (expected, delivered)
    )
    return light_difference(one, other, coding)


def colour_difference(
    expected: dict[str, Real], delivered: dict[str, Real], coding: Coding, *, patch: int = PATCH
) -> tuple[float, float] | None:
    """Return the mean of difference_map and its worst region's; None where coding is not known."""
    found = difference_map(expected, delivered, coding, patch=patch)
    if found is None:
        return None
    side = max(found.shape[1] // REGIONS, 1)
    size = (max(found.shape[1] // side, 1), max(found.shape[0] // side, 1))
    regions = cv2.resize(found, size, interpolation=cv2.INTER_AREA)
    return float(found.mean()), float(regions.max())


def _triples(planes: dict[str, Real], patch: int) -> npt.NDArray[np.float64]:
    luma = planes["luma"]
    size = (max(luma.shape[1] // patch, 1), max(luma.shape[0] // patch, 1))
    small = [_averaged(planes[name], size) for name in ("luma", "cb", "cr")]
    return np.stack(small, axis=-1).astype(np.float64)


def _averaged(plane: Real, size: tuple[int, int]) -> Real:
    """Return means of areas: across first, where they mostly are whole samples, so thrice as fast.

    As exact as both ways at once: areas are rectangles.
    """
    across = cv2.resize(plane, (size[0], plane.shape[0]), interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.resize(across, size, interpolation=cv2.INTER_AREA))
