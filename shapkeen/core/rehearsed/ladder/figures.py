"""How a rendition suffers: likeness, colour, detail that is left, even gradients in steps.

Held against the picture as it should come out at the rendition's size: read as it is meant, by
the same cut, in the same kind of light, neither changed nor coded.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.coding import Coding
from ...measured.decoded.frames import Plane
from ...measured.decoded.grid import Real
from ...measured.decoded.metrics import colour_difference, quick_likeness
from .through_service import Planes

TILE = 64
BANDS = 32
LEFT = 0.5
"""Detail is there as long as half of its amplitude is: the usual limit of a transfer function."""
LEAST_POWER = 0.6
"""Codes² of 1023 at a frequency: below lies rounding alone."""
BLOCK, BLUR = 16, 2.0
GENTLE = (0.04, 1.0)
"""Codes of 1023 a sample: the slopes of even gradients, in which steps show."""
EVEN_RMS, STEP_RMS = 0.6, 1.4
"""A gradient is even where it leaves its own plane by less; in steps where the rendition does by so
much more. Steps of 8 bits leave it by 4 ÷ √12 = 1.15 codes of 1023: those alone are not counted."""

Grey = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameFigures:
    """One frame of a rendition. frame: the film's. psnr in dB; delta_e as difference_name says."""

    frame: int
    ssim: float
    psnr: float
    delta_e: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """A rendition's figures.

    detail_lines: up to how many lines across the picture's height detail is left, of_lines: how
    many the picture has itself, both counted on the whole received picture; None where it has no
    fine structure. banding: the share of even gradients that came out in steps; None without any.
    worst: the frame of the least SSIM. series: of every measured frame.
    """

    ssim: float
    psnr: float
    delta_e: float | None
    detail_lines: int | None
    of_lines: int | None
    banding: float | None
    worst: int
    series: tuple[FrameFigures, ...]


def ten_bit(planes: Planes, depth: int) -> dict[str, Real]:
    """Return planes in 10-bit codes."""
    scale = np.float32(2.0 ** (10 - depth))
    return {
        name: np.asarray(plane.astype(np.float32) * scale)
        for name, plane in zip(("luma", "cb", "cr"), planes, strict=True)
    }


def frame_figures(
    frame: int, expected: dict[str, Real], shown: dict[str, Real], coding: Coding
) -> FrameFigures:
    """Return one frame's figures; planes in 10-bit codes of one size, meant by one coding."""
    ssim, psnr = quick_likeness(expected["luma"], shown["luma"])
    found = colour_difference(expected, shown, coding)
    return FrameFigures(frame=frame, ssim=ssim, psnr=psnr, delta_e=found[0] if found else None)


def detail_left(pairs: Sequence[tuple[Real, Real]]) -> tuple[float, float] | None:
    """Return up to which frequency detail is left, and up to which the picture has any.

    pairs: luma of the picture as it should be and of the rendition brought to its size, 10-bit
    codes. Frequencies are shares of the highest one that the lines can carry (0..1), down the
    picture. None where it has no fine structure. By the cross spectrum: what is shared counts,
    coding noise does not.
    """
    shared, own, tiles = np.zeros(BANDS), np.zeros(BANDS), 0
    window = np.outer(np.hanning(TILE), np.hanning(TILE)).astype(np.float32)
    window /= np.sqrt((window**2).sum())
    place = np.minimum((np.abs(np.fft.fftfreq(TILE)) * 2 * BANDS).astype(int), BANDS - 1)
    along = np.broadcast_to(place[:, None], (TILE, TILE)).ravel()
    count = np.bincount(along, minlength=BANDS)
    for one, other in pairs:
        for a, b in _tiles(one, other):
            x, y = (np.fft.fft2((tile - tile.mean()) * window) for tile in (a, b))
            shared += np.bincount(along, (y * x.conj()).real.ravel(), BANDS)
            own += np.bincount(along, (np.abs(x) ** 2).ravel(), BANDS)
            tiles += 1
    if not tiles:
        return None
    rich = own / count / tiles > LEAST_POWER
    if not rich.any():
        return None
    most = int(np.flatnonzero(rich)[-1]) + 1
    ratio = shared / np.maximum(own, 1e-9)
    below = np.flatnonzero(rich & (ratio < LEFT))
    left = int(below[0]) if len(below) else most
    return left / BANDS, most / BANDS


def _tiles(one: Real, other: Real) -> list[tuple[Real, Real]]:
    height, width = one.shape
    rows, columns = range(0, height - TILE + 1, TILE), range(0, width - TILE + 1, TILE)
    return [
        (one[y : y + TILE, x : x + TILE], other[y : y + TILE, x : x + TILE])
        for y in rows
        for x in columns
    ]


def banding(expected: Real, shown: Real) -> float | None:
    """Return the share of even gradients that came out in steps; None where there is none.

    Luma of one size in 10-bit codes. A gradient is a block of 16 × 16 that is a plane but for
    noise; steps leave that plane.
    """
    soft = [_blocks(np.asarray(cv2.GaussianBlur(p, (0, 0), BLUR))) for p in (expected, shown)]
    slopes, rests = zip(*(_plane_fit(blocks) for blocks in soft), strict=True)
    even = (slopes[0] > GENTLE[0]) & (slopes[0] < GENTLE[1]) & (rests[0] < EVEN_RMS)
    if even.sum() < 8:
        return None
    return float((rests[1][even] > STEP_RMS).mean())


def _blocks(plane: Real) -> Grey:
    """Return (block, BLOCK × BLOCK)."""
    rows, columns = plane.shape[0] // BLOCK, plane.shape[1] // BLOCK
    cut = plane[: rows * BLOCK, : columns * BLOCK].reshape(rows, BLOCK, columns, BLOCK)
    return np.asarray(cut.swapaxes(1, 2).reshape(-1, BLOCK * BLOCK), np.float64)


def _plane_fit(blocks: Grey) -> tuple[Grey, Grey]:
    """Return each block's slope in codes a sample, and how far it leaves its plane (rms)."""
    y, x = np.mgrid[:BLOCK, :BLOCK] - (BLOCK - 1) / 2
    basis = np.stack([np.ones(BLOCK * BLOCK), x.ravel(), y.ravel()])
    basis /= np.linalg.norm(basis, axis=1, keepdims=True)
    weights = blocks @ basis.T
    rest = blocks - weights @ basis
    step = np.linalg.norm(x.ravel())
    slope = np.hypot(weights[:, 1], weights[:, 2]) / step
    return slope, np.sqrt((rest**2).mean(axis=1))


def enlarged(plane: Plane | Real, size: tuple[int, int]) -> Real:
    """Return a plane at another size, as screens enlarge it (bicubic)."""
    made = plane.astype(np.float32)
    if made.shape == (size[1], size[0]):
        return np.asarray(made)
    way = cv2.INTER_AREA if size[0] < made.shape[1] else cv2.INTER_CUBIC
    return np.asarray(cv2.resize(made, size, interpolation=way))
