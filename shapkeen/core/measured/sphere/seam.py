"""What an export adds to the step across a sphere's joined edges, beside what it adds elsewhere."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..grid import Real
from .signs import POLE_SHARE

BETWEEN = 16
"""Columns from one place to the next where ordinary steps are taken."""
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


def added_step(expected: Real, delivered: Real, master_edges: Real) -> SeamStep | None:
    """Return what the export adds at the seam; None where the picture is too small to tell.

    expected, delivered: luma (row, column) on one grid, sample on sample, 10-bit codes.
    master_edges: (row, 2), the whole master's first and last column on the same rows.
    """
    height, width = delivered.shape
    edge = int(height * POLE_SHARE)
    if width < 8 * BETWEEN or height < 16:
        return None
    lines = slice(edge, height - edge)
    there = master_edges[lines, 0] - master_edges[lines, 1]
    here = delivered[lines, 0] - delivered[lines, -1]
    added = here - there
    away = (delivered - expected)[lines]
    places = range(BETWEEN, width - BETWEEN, BETWEEN)
    beside = float(np.median([_rms(away[:, i] - away[:, i - 1]) for i in places]))
    # The edges are coded apart: what coding does to one, the other knows nothing of.
    apart = float(np.sqrt(2) * np.median([_rms(away[:, i] - away[:, i].mean()) for i in places]))
    ordinary = max(beside, apart, FLOOR_CODES)
    return SeamStep(_rms(added), ordinary, _by_latitude(added, edge, height))


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
