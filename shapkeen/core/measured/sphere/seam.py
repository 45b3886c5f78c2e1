"""What an export adds to the step across a sphere's joined edges, beside what it adds elsewhere."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from ..alignment.layout.projection_signs import POLE_SHARE
from ..decoded.grid import Real

BETWEEN = 16
"""Columns beside the edges that are no ordinary place."""
FLOOR_CODES = 0.5
"""Rounding alone; 10-bit codes, RMS."""
ROWS = 60


@dataclass(frozen=True, slots=True)
class SeamStep:
    """RMS in 10-bit codes that an export adds at its seam and, in the middle, elsewhere.

    Elsewhere: between neighbouring columns, or between any two where coding leaves more there.

    rows: the same at the seam by latitude: (degrees, mean step beyond the master's).
    """

    seam: float
    ordinary: float
    rows: tuple[tuple[float, float], ...]


COLUMNS = 2
"""Single ones would tell more of grain and of coding than of a step."""


def edges_of(luma: Real) -> Real:
    """Return the first and the last columns (row, 2) of a picture."""
    ends = luma[:, :COLUMNS], luma[:, -COLUMNS:]
    return np.stack([end.mean(axis=1) for end in ends], axis=1)


@dataclass(frozen=True, slots=True)
class Edges:
    """First and last columns of the whole master's and of the whole export's luma.

    (row, 2), each the mean of COLUMNS.
    """

    master: Real
    export: Real


def added_step(expected: Real, delivered: Real, edges: Edges) -> SeamStep | None:
    """Return what the export adds at the seam; None where the picture is too small to tell.

    expected, delivered: luma (row, column) on one grid, sample on sample, 10-bit codes. edges: on
    one grid too.
    """
    height, width = delivered.shape
    edge = int(height * POLE_SHARE)
    if width < 8 * BETWEEN or height < 16:
        return None
    lines = slice(edge, height - edge)
    there, here = (one[:, 0] - one[:, 1] for one in (edges.master, edges.export))
    rows = len(there)
    added = (here - there)[int(rows * POLE_SHARE) : rows - int(rows * POLE_SHARE)]
    away = (delivered - expected)[lines]
    parts = [
        away[:, i : i + COLUMNS].mean(axis=1) for i in range(BETWEEN, width - BETWEEN, COLUMNS)
    ]
    neighbours = float(np.median([_rms(one - other) for one, other in pairwise(parts)]))
    # The edges are coded apart: what coding does to one, the other knows nothing of.
    apart = float(np.sqrt(2) * np.median([_rms(part - part.mean()) for part in parts]))
    ordinary = max(neighbours, apart, FLOOR_CODES)
    return SeamStep(_rms(added), ordinary, _by_latitude(added, int(rows * POLE_SHARE), rows))


def _rms(values: npt.NDArray[np.floating]) -> float:
    return float(np.sqrt(np.mean(values.astype(np.float64) ** 2)))


def _by_latitude(
    added: npt.NDArray[np.floating], edge: int, height: int
) -> tuple[tuple[float, float], ...]:
    parts = np.array_split(np.arange(len(added)), min(ROWS, len(added)))
    return tuple(
        (
            round(90 - (float(part.mean()) + edge + 0.5) / height * 180, 2),
            round(float(added[part].mean()), 2),
        )
        for part in parts
    )
