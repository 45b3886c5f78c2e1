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
BLOCK, BLUR, LEVEL = 16, 2.0, 129
GENTLE = (0.04, 1.0)
"""Codes of 1023 a sample: the slopes of even gradients, in which steps show."""
EVEN_RMS, STEP_RMS = 0.6, 1.6
"""A gradient is even where it leaves its own plane by less, and in steps where the rendition is off
by more. Steps of s codes are off by s ÷ √12: those of 8 bits by 1.15, which alone do not count."""

LEAST_BLOCKS = 8
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
    fine structure. detail_kept: the share of fine structure that is there. banding: the share of
    even gradients that came out in steps; None without any. worst: the frame of the least SSIM.
    series: of every measured frame.
    """

    ssim: float
    psnr: float
    delta_e: float | None
    detail_lines: int | None
    of_lines: int | None
    detail_kept: float | None
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


@dataclass(frozen=True, slots=True, kw_only=True)
class DetailLeft:
    """Detail down the picture; frequencies as shares of the highest that its lines can carry.

    left: up to which frequency at least half is there. most: up to which the picture has any.
    kept: the mean share of fine structure that is there, from a quarter of `most` up; what was
    sharpened beyond the picture's own counts as whole.
    """

    left: float
    most: float
    kept: float


def detail_left(pairs: Sequence[tuple[Real, Real]]) -> DetailLeft | None:
    """Return what is left of detail; None where the picture has no fine structure.

    pairs: luma of the picture as it should be and of the rendition brought to its size, 10-bit
    codes. By the cross spectrum: what both share counts, coding noise does not.
    """
    shared, own, tiles = np.zeros(BANDS), np.zeros(BANDS), 0
    place = np.minimum((np.arange(TILE // 2 + 1) * 2 / TILE * BANDS).astype(int), BANDS - 1)
    count = np.bincount(place, minlength=BANDS) * TILE
    for pair in pairs:
        x, y = (_spectra(_tiles(plane)) for plane in pair)
        shared += np.bincount(place, (y * x.conj()).real.sum(axis=(0, 2)), BANDS)
        own += np.bincount(place, (np.abs(x) ** 2).sum(axis=(0, 2)), BANDS)
        tiles += len(x)
    if not tiles:
        return None
    rich = own / count / tiles > LEAST_POWER
    if not rich.any():
        return None
    most = int(np.flatnonzero(rich)[-1]) + 1
    ratio = shared / np.maximum(own, 1e-9)
    fine = rich & (np.arange(BANDS) >= most / 4)
    kept = float(np.clip(ratio[fine], 0, 1).mean()) if fine.any() else 1.0
    return DetailLeft(left=_crossing(ratio, rich, most), most=most / BANDS, kept=kept)


def _crossing(ratio: Grey, rich: npt.NDArray[np.bool_], most: int) -> float:
    """Return at which frequency the ratio falls below LEFT, between bands by a straight line."""
    below = np.flatnonzero(rich & (ratio < LEFT))
    if not len(below):
        return most / BANDS
    at = int(below[0])
    if at == 0:
        return 0.0
    over, under = max(float(ratio[at - 1]), LEFT), float(ratio[at])
    place = at - 0.5 + (over - LEFT) / max(over - under, 1e-9)
    return min(place, most) / BANDS


def _tiles(plane: Real) -> Real:
    """Return (tile, TILE, TILE); what is left at the edges is left out."""
    rows, columns = plane.shape[0] // TILE, plane.shape[1] // TILE
    cut = plane[: rows * TILE, : columns * TILE].reshape(rows, TILE, columns, TILE)
    return np.asarray(cut.swapaxes(1, 2).reshape(-1, TILE, TILE))


def _spectra(tiles: Real) -> npt.NDArray[np.complex64]:
    """Return windowed spectra (tile, frequency down, column) of tiles, each about its mean.

    Down the picture alone: all columns count alike.
    """
    window = np.hanning(TILE).astype(np.float32)[:, None]
    window /= np.sqrt((window**2).sum())
    even = tiles - tiles.mean(axis=(1, 2), keepdims=True)
    return np.asarray(np.fft.rfft(even * window, axis=1), np.complex64)


def banding(expected: Real, shown: Real) -> float | None:
    """Return the share of even gradients that came out in steps; None where there is none.

    Luma of one size in 10-bit codes. A gradient is a block of 16 × 16 that is a plane but for
    noise; steps are off it to and fro, and what is off all over is no step.
    """
    soft, there = (cv2.GaussianBlur(p, (0, 0), BLUR) for p in (expected, shown))
    slope, rest = _plane_fit(_blocks(np.asarray(soft)))
    even = (slope > GENTLE[0]) & (slope < GENTLE[1]) & (rest < EVEN_RMS)
    if even.sum() < LEAST_BLOCKS:
        return None
    off = there - soft
    off = off - cv2.blur(off, (LEVEL, LEVEL))
    return float((np.sqrt((_blocks(np.asarray(off))[even] ** 2).mean(axis=1)) > STEP_RMS).mean())


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
