"""How far from each edge the lines of a picture are one level, or are as expected."""

from typing import Any

import numpy as np
import numpy.typing as npt

from ..decoded.grid import Real

EVEN_CODES, UNEVEN_SHARE, BAR_LINES = 24.0, 0.03, 2
"""As bars are told from single samples (bars.py); what coding sprinkles over them is left out."""
Flags = npt.NDArray[np.bool_]
Sides = tuple[float, float, float, float]
"""Top, bottom, left, right."""


def even_runs(plane: Real, *, most: float = np.inf) -> Sides:
    """Return how far from each edge a plane is one level, but for what coding put there.

    most: in codes; a level above is no bar, but light that was blown out.
    """
    found = []
    for turned in _turned(plane):
        level = float(np.median(turned[:BAR_LINES]))
        off = np.abs(turned[: len(turned) // 2] - level) > EVEN_CODES
        found.append(_lines_on(off, len(turned)) if level <= most else 0.0)
    return (found[0], found[1], found[2], found[3])


def from_edges(off: Flags) -> Sides:
    """Return how far from each edge hardly a sample of any line is off, up to the middle."""
    found = [_lines_on(turned[: len(turned) // 2], len(turned)) for turned in _turned(off)]
    return (found[0], found[1], found[2], found[3])


def _turned(plane: npt.NDArray[Any]) -> tuple[npt.NDArray[Any], ...]:
    """Return a plane with each of its edges as its first line: as in Sides."""
    return plane, plane[::-1], plane.T, plane.T[::-1]


def _lines_on(off: Flags, count: int) -> float:
    """Return how many of the lines come before one of which more than a few samples are off, as a
    share of so many."""
    uneven = np.flatnonzero(off.mean(axis=1) > UNEVEN_SHARE)
    return float(uneven[0] if len(uneven) else len(off)) / count
