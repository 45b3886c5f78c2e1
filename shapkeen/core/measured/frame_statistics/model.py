"""What counting every sample of some frames gives: whole numbers that add up in any order."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .kernels import BINS, C_CELLS, STEPS, Y_CELLS

Counts = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, order=True)
class FrameFigures:
    """One frame: time in the stream's ticks, light in cd/m² (0 where none is measured), shares.

    brightest, p999, p9999: of each sample's brightest channel. outside_wider, outside_narrower:
    samples outside P3-D65 and BT.709.
    """

    ticks: int
    brightest: float
    average: float
    p999: float
    p9999: float
    outside_wider: int
    outside_narrower: int


@dataclass(frozen=True, slots=True)
class Tally:
    """All counts over some frames. Adding is associative: cutting a file changes nothing.

    raster, depth: of every frame counted. codes: luma codes. brightest: each sample's brightest
    channel by bin. cells: colours (Y, Cb, Cr), thinned. steps: between even runs, by codes.
    skipped: frames of another raster or depth than the first.
    """

    raster: tuple[int, int]
    depth: int
    frames: tuple[FrameFigures, ...]
    codes: Counts
    brightest: Counts
    cells: Counts
    steps: Counts
    skipped: int = 0


def empty_tally(raster: tuple[int, int], depth: int) -> Tally:
    """Return a tally of no frames."""
    return Tally(
        raster,
        depth,
        (),
        np.zeros(1 << depth, np.int64),
        np.zeros(BINS, np.int64),
        np.zeros((Y_CELLS, C_CELLS, C_CELLS), np.int64),
        np.zeros(STEPS, np.int64),
    )


def joined(tallies: Iterable[Tally]) -> Tally | None:
    """Return one tally of all, frames in order of time; None of none.

    Segments of another raster or depth than the earliest count as skipped.
    """
    parts = sorted((one for one in tallies if one.frames), key=lambda one: one.frames[0])
    if not parts:
        return None
    first = parts[0]
    alike = [one for one in parts if (one.raster, one.depth) == (first.raster, first.depth)]
    odd = sum(len(one.frames) for one in parts) - sum(len(one.frames) for one in alike)
    return Tally(
        first.raster,
        first.depth,
        tuple(sorted(frame for one in alike for frame in one.frames)),
        sum_of(one.codes for one in alike),
        sum_of(one.brightest for one in alike),
        sum_of(one.cells for one in alike),
        sum_of(one.steps for one in alike),
        skipped=odd + sum(one.skipped for one in parts),
    )


def sum_of(counts: Iterable[Counts]) -> Counts:
    """Return the sum of arrays of one shape."""
    return np.asarray(np.sum(list(counts), axis=0, dtype=np.int64))
