"""What a table did to the export after the one that it was made from: too little, or twice."""

import numpy as np
import numpy.typing as npt

from ...measured import COLOUR_STEPS, ColourPairs

CELL_CODES = 24.0
LEAST_CELLS = 12
LEAST_MOVED = 3.0
"""Codes, root mean square: drifts below are coding."""
Means = dict[tuple[int, ...], npt.NDArray[np.float64]]


def taken_back(before: ColourPairs | None, now: ColourPairs | None) -> float | None:
    """Return how much of an export's drift is gone in a later one: 0 none, 1 all, 2 all of it and
    as much again the other way.

    None where their pictures have too few colours in common, or nothing had drifted.
    """
    if before is None or now is None:
        return None
    one, other = _moved(before), _moved(now)
    shared = sorted(set(one) & set(other))
    if len(shared) < LEAST_CELLS:
        return None
    was, is_now = (np.array([moved[key] for key in shared]) for moved in (one, other))
    if np.sqrt((was**2).sum(axis=1).mean()) < LEAST_MOVED:
        return None
    return float(1 - (was * is_now).sum() / (was**2).sum())


def _moved(pairs: ColourPairs) -> Means:
    """Return by how many codes colours moved, by cells of the expected ones."""
    table = np.array((*pairs.fitted, *pairs.aside), np.float64)
    expected, delivered = (table[:, at : at + 3] / COLOUR_STEPS for at in (0, 3))
    keys = np.floor(expected / CELL_CODES).astype(int)
    cells, group, sizes = np.unique(keys, axis=0, return_inverse=True, return_counts=True)
    moved = delivered - expected
    sums = [np.bincount(group.ravel(), moved[:, channel], len(cells)) for channel in range(3)]
    means = np.stack(sums, axis=1) / sizes[:, None]
    return dict(zip(map(tuple, cells.tolist()), means, strict=True))
