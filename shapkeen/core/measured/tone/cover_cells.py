"""One pair in cells: in which of them the delivered picture is another than the master's, and how
far from each edge it is one level or the master's own."""

from collections.abc import Mapping
from dataclasses import dataclass

import cv2
import numpy as np

from ..alignment.place.bars import WHITE_CODES
from ..decoded.grid import Real, Rect
from .edge_lines import EVEN_CODES, Flags, Sides, even_runs, from_edges
from .predicted import predicted_luma
from .shear import row_shear

CELL = 8
"""Samples of the common grid (at most 1280 wide) a side of a cell: letters are small."""
LEAST_OFF, TIMES_OFF = 80.0, 5.0
"""10-bit codes by which a covered cell differs, and times what cells differ by in the middle."""
MOVED_CODES, ROUGHER = 40.0, 1.3
"""Coding takes structure away and leaves the mean: what lies over a cell moves it, or adds some."""
FOLLOWS = 0.5
PLACE_CELLS = 5
FLAT_CODES = 6.0


@dataclass(frozen=True, slots=True)
class CoverCells:
    """The cells of one pair (rows, columns): which may be covered.

    runs: how far expected and delivered picture are one level from each edge. bared: how far from
    each edge the delivered picture is the expected one, so that nothing hides it. shared: the part
    of the export's raster that they lie in. sheared: samples by which the last row was moved
    further to the right than the first, 0 where that cannot be told or nothing differs.
    """

    frame: int
    covered: Flags
    runs: tuple[Sides, Sides]
    bared: Sides
    shared: Rect
    sheared: float = 0.0


def cover_cells(
    frame: int, planes: Mapping[str, Real], delivered: Real, shared: Rect
) -> CoverCells:
    """Return the cells of one pair.

    planes: the expected luma, and cb and cr of half its size; delivered: luma.
    """
    expected = planes["luma"]
    predicted = predicted_luma(planes, delivered)
    off = delivered - predicted
    far, moved = np.sqrt(_cells(off * off)), np.abs(_cells(off))
    mean_one, mean_other = _cells(expected), _cells(delivered)
    spread_one = np.maximum(_cells(expected * expected) - mean_one**2, 0)
    spread_other = np.maximum(_cells(delivered * delivered) - mean_other**2, 0)
    covariance = _cells(expected * delivered) - mean_one * mean_other
    # At the border of an area at another light, a step may even go the other way.
    follows = np.abs(covariance) > FOLLOWS * np.sqrt(spread_one * spread_other + FLAT_CODES**2)
    covered = (far > max(LEAST_OFF, TIMES_OFF * float(np.median(far)))) & ~follows
    # Where both are even, only light tells them apart: that is an area at another light.
    covered &= np.maximum(spread_one, spread_other) > FLAT_CODES**2
    covered &= (moved > MOVED_CODES) | (spread_other > ROUGHER**2 * spread_one)
    # What was blown out is one level as well, and hides nothing.
    given = np.maximum(even_runs(expected), even_runs(predicted)).tolist()
    runs = (*given,), even_runs(delivered, most=WHITE_CODES)
    sheared = row_shear(predicted, delivered) if covered.any() else 0.0
    # By single samples to the line, or by the middle light of places: a bar has a light of its own,
    # while coding that wore a dark slope or grain away leaves theirs.
    places = cv2.blur(_cells(off), (PLACE_CELLS, PLACE_CELLS))
    by_places = np.array(from_edges(np.abs(places) > EVEN_CODES / 2)) * _whole_cells(off.shape)
    bared = np.maximum(from_edges(np.abs(off) > EVEN_CODES), by_places).tolist()
    return CoverCells(frame, covered, runs, (*bared,), shared, sheared)


def _cells(plane: Real) -> Real:
    height, width = (side // CELL for side in plane.shape)
    whole = plane[: height * CELL, : width * CELL]
    small = cv2.resize(whole, (width, height), interpolation=cv2.INTER_AREA)  # whole squares
    return np.asarray(small, np.float32)


def _whole_cells(shape: tuple[int, ...]) -> tuple[float, float, float, float]:
    """Return which share of the lines from each edge cells cover."""
    down, across = (side // CELL * CELL / side for side in shape)
    return down, down, across, across
