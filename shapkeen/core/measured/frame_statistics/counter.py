"""Counts one file's frames at full size, every sample, into a tally."""

from collections.abc import Callable
from typing import Any

import numpy as np
import numpy.typing as npt

from ...colour.codepoints import HLG, PQ
from ...colour.matrix import WEIGHTS
from ...colour.primaries import CHROMATICITIES
from ..decoded.frames import Frame, whole_rows
from ..model import Reading
from . import kernels, tables
from .model import FIGURES, Counts, Tally, empty_tally, sum_of

WIDE_PRIMARIES = frozenset({9, 11, 12})
"""Only these can hold colours outside BT.709."""
MARKS = np.array([0.999, 0.9999, 1.0])
BT2020_MATRIX = 9


class Counter:
    """Adds frames of one raster and depth. Use one for each segment."""

    def __init__(self, reading: Reading, raster: tuple[int, int], depth: int) -> None:
        """Start empty, for a file that is read this way."""
        self._reading, self._raster, self._depth = reading, raster, depth
        self._codes = np.zeros(1 << depth, np.int64)
        self._places = np.zeros((4, kernels.PLACES), np.int32)
        tally = empty_tally(raster, depth)
        self._brightest, self._cells, self._steps = tally.brightest, tally.cells, tally.steps
        self._frames: list[tuple[float, ...]] = []
        self._skipped = 0

    def add(self, frame: Frame, ticks: int) -> None:
        """Count one frame; one of another raster or depth is only told as skipped."""
        if frame.raster != self._raster or frame.depth != self._depth:
            self._skipped += 1
            return
        planes = [whole_rows(plane) for plane in (frame.luma, frame.cb, frame.cr)]
        width, height = frame.raster
        across = int(frame.cb.shape[1] < width)
        down = int(frame.cb.shape[0] < height)
        size = np.array(
            [width, frame.cb.shape[1], across, down, tables.SCALE_BITS - frame.depth], np.int32
        )
        self._codes += self._counted(1 << frame.depth, kernels.count_codes, planes[0], width)
        kernels.count_steps(planes[0], width, self._steps)
        kernels.count_colours(planes[0], planes[1], planes[2], size, frame.depth, self._cells)
        brightest, average, p999, p9999 = self._light(planes, size)
        wider, narrower = self._outside(planes, size)
        self._frames.append((ticks, brightest, average, p999, p9999, wider, narrower))

    def _counted(self, places: int, count: Callable[..., None], *given: object) -> Counts:
        """Return what a counting loop finds in one frame, over its first places."""
        self._places[:, :places] = 0
        count(*given, self._places)
        return sum_of(self._places[:, :places])

    def _light(
        self, planes: list[npt.NDArray[Any]], size: npt.NDArray[np.int32]
    ) -> tuple[float, float, float, float]:
        full_range, transfer = self._reading.full_range, self._reading.transfer
        if transfer not in (PQ, HLG):
            return 0.0, 0.0, 0.0, 0.0
        terms = tables.chroma_terms(
            _known(self._reading.matrix, BT2020_MATRIX), depth=self._depth, full_range=full_range
        )
        if transfer == PQ:
            mine = self._counted(kernels.BINS, kernels.count_brightest, *planes, size, terms)
            light = tables.pq_light(full_range=full_range)
        else:
            lookup = tables.hlg_tables(full_range=full_range)
            mine = self._counted(
                kernels.BINS, kernels.count_brightest_hlg, *planes, size, terms, *lookup
            )
            light = tables.pq_bin_light()
        self._brightest += mine
        summed = np.cumsum(mine)
        signatures = np.searchsorted(summed, MARKS * summed[-1])
        p999, p9999, top = (
            float(light[min(signature, kernels.BINS - 1)]) for signature in signatures
        )
        return top, float((mine * light).sum() / summed[-1]), p999, p9999

    def _outside(
        self, planes: list[npt.NDArray[Any]], size: npt.NDArray[np.int32]
    ) -> tuple[int, int]:
        reading = self._reading
        if reading.primaries not in WIDE_PRIMARIES or reading.primaries not in CHROMATICITIES:
            return 0, 0
        table = tables.gamut_table(
            reading.transfer or 1,
            reading.primaries,
            _known(reading.matrix, BT2020_MATRIX),
            depth=self._depth,
            full_range=reading.full_range,
        )
        bits = tables.side_bits(self._depth)
        found = np.zeros(2, np.int64)
        shifts = np.array([bits, self._depth - bits], np.int32)
        kernels.count_outside(planes[0], planes[1], planes[2], size, shifts, table, found)
        return int(found[0]), int(found[1])

    def result(self) -> Tally:
        """Return the tally of the frames added so far."""
        return Tally(
            self._raster,
            self._depth,
            np.array(self._frames, FIGURES),
            self._codes.copy(),
            self._brightest.copy(),
            self._cells.copy(),
            self._steps.copy(),
            self._skipped,
        )


def _known(matrix: int | None, otherwise: int) -> int:
    return matrix if matrix in WEIGHTS and matrix is not None else otherwise
