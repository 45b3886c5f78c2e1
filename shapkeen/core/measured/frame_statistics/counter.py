"""Counts one file's frames at full size, every sample, into a tally."""

import numpy as np
import numpy.typing as npt

from ...colour.codepoints import HLG, PQ
from ...colour.matrix import WEIGHTS
from ...colour.primaries import CHROMATICITIES
from ..decoded.frames import Frame, whole_rows
from ..model import Reading
from . import kernels, tables
from .model import FIGURES, Tally, empty_tally

WIDE_PRIMARIES = frozenset({9, 11, 12})
"""Only these can hold colours outside BT.709."""
MARKS = np.array([0.999, 0.9999, 1.0])
BT2020_MATRIX = 9


NO_SCENE = (np.zeros(0, np.float32), np.zeros(0, np.float32), np.zeros(0, np.uint16))
NO_GAMUT = np.zeros(0, np.uint32)


class Counter:
    """Adds frames of one raster and depth. Use one for each segment."""

    def __init__(self, reading: Reading, raster: tuple[int, int], depth: int) -> None:
        """Start empty, for a file that is read this way."""
        self._reading, self._raster, self._depth = reading, raster, depth
        self._codes = np.zeros(1 << depth, np.int64)
        tally = empty_tally(raster, depth)
        self._brightest, self._cells, self._steps = tally.brightest, tally.cells, tally.steps
        self._counted = kernels.Counted(
            codes=np.zeros((4, kernels.PLACES), np.int32),
            brightest=np.zeros((4, kernels.PLACES), np.int32),
            cells=self._cells,
            steps=self._steps,
            outside=np.zeros(2, np.int64),
        )
        self._frames: list[tuple[float, ...]] = []
        self._skipped = 0

    def add(self, frame: Frame, ticks: int) -> None:
        """Count one frame; one of another raster or depth is only told as skipped."""
        if frame.raster != self._raster or frame.depth != self._depth:
            self._skipped += 1
            return
        luma, cb, cr = (whole_rows(plane) for plane in (frame.luma, frame.cb, frame.cr))
        counted, codes = self._counted, 1 << frame.depth
        counted.codes[:, :codes] = 0
        counted.brightest[:, : kernels.BINS] = 0
        counted.outside[:] = 0
        kernels.count_frame(luma, cb, cr, self._lookups(frame), counted)
        self._codes += counted.codes[:, :codes].sum(axis=0, dtype=np.int64)
        wider, narrower = counted.outside.tolist()
        self._frames.append((ticks, *self._light(), wider, narrower))

    def _lookups(self, frame: Frame) -> kernels.Lookups:
        """Return what the loops are told."""
        reading, (width, height) = self._reading, frame.raster
        matrix, full_range = _known(reading.matrix, BT2020_MATRIX), reading.full_range
        rows, columns = frame.cb.shape
        across, down = int(columns < width), int(rows < height)
        size = np.array([width, columns, across, down, tables.SCALE_BITS - self._depth], np.int32)
        terms = tables.chroma_terms(matrix, depth=self._depth, full_range=full_range)
        lights = {PQ: kernels.BY_CODE, HLG: kernels.BY_SCENE_LIGHT}
        scene = tables.hlg_tables(full_range=full_range) if reading.transfer == HLG else NO_SCENE
        bits = tables.side_bits(self._depth)
        return kernels.Lookups(
            size,
            self._depth,
            lights.get(reading.transfer or 0, kernels.NO_LIGHT),
            terms,
            *scene,
            self._gamut(matrix),
            np.array([bits, self._depth - bits, tables.luma_shift(self._depth)], np.int32),
        )

    def _gamut(self, matrix: int) -> npt.NDArray[np.uint32]:
        """Return the table of what lies outside smaller gamuts; of no length where nothing can."""
        reading = self._reading
        if reading.primaries not in WIDE_PRIMARIES or reading.primaries not in CHROMATICITIES:
            return NO_GAMUT
        return tables.gamut_table(
            reading.transfer or 1,
            reading.primaries,
            matrix,
            depth=self._depth,
            full_range=reading.full_range,
        )

    def _light(self) -> tuple[float, float, float, float]:
        """Return the frame's brightest, average, 99.9 % and 99.99 % of light in cd/m²."""
        full_range, transfer = self._reading.full_range, self._reading.transfer
        if transfer not in (PQ, HLG):
            return 0.0, 0.0, 0.0, 0.0
        mine = self._counted.brightest[:, : kernels.BINS].sum(axis=0, dtype=np.int64)
        light = tables.pq_light(full_range=full_range) if transfer == PQ else tables.pq_bin_light()
        self._brightest += mine
        summed = np.cumsum(mine)
        marks = np.searchsorted(summed, MARKS * summed[-1])
        p999, p9999, top = (float(light[min(mark, kernels.BINS - 1)]) for mark in marks)
        return top, float((mine * light).sum() / summed[-1]), p999, p9999

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
