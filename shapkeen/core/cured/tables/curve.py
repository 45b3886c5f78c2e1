"""One smooth rising curve for all channels, from pairs of signals."""

from typing import Any

import numpy as np
import numpy.typing as npt

from .model import CURVE_SIZE, Colours

BEND, SLOPE = 3e-9, 1e-7
"""What a bend and a slope of the correction cost, against squares of errors in signal: so little
that only what no colour speaks for is decided by it."""
ROUNDS = 4
ROBUST, LEAST_ERROR = 3.0, 1e-3
Values = npt.NDArray[np.float64]


def fit_curve(colours: Colours, *, bend: float = BEND) -> Values:
    """Return the curve (CURVE_SIZE,) of all channels that takes delivered signals to expected ones.

    What was added or taken away is least in bend (penalised least squares), so that it goes on
    straight where no colour was, and levels out further off.
    """
    from scipy.linalg import solveh_banded

    given = np.clip(colours.delivered.ravel(), 0.0, 1.0)
    moved = colours.expected.ravel() - given
    weights = np.repeat(colours.counts, 3) ** 0.5
    weights, steps = weights / weights.sum(), CURVE_SIZE - 1
    low = np.minimum((given * steps).astype(np.intp), steps - 1)
    part = given * steps - low
    regular = _regular(CURVE_SIZE, bend)
    own = weights.copy()
    for _ in range(ROUNDS):
        bands = regular.copy()
        sums = np.zeros(CURVE_SIZE)
        for at, share in ((low, 1 - part), (low + 1, part)):
            bands[2] += np.bincount(at, own * share**2, CURVE_SIZE)
            sums += np.bincount(at, own * share * moved, CURVE_SIZE)
        bands[1, 1:] += np.bincount(low, own * part * (1 - part), CURVE_SIZE)[:-1]
        field = solveh_banded(bands, sums)
        error = np.abs(field[low] * (1 - part) + field[low + 1] * part - moved)
        own = weights * robust_weights(error)
    return np.asarray(np.maximum.accumulate(np.linspace(0.0, 1.0, CURVE_SIZE) + field))


def _regular(size: int, bend: float) -> Values:
    """Return upper bands (3, size) of the costs of bend and slope."""
    costs = regular_line(size, bend, SLOPE)
    bands = np.zeros((3, size))
    for apart in range(3):
        bands[2 - apart, apart:] = costs.diagonal(apart)
    return bands


def regular_line(size: int, bend: float, slope: float) -> Any:
    """Return the matrix (size, size) of what bends and slopes of a line over 0..1 cost.

    Sums stand for integrals of squared derivatives: a spacing h a point, 1 / h a difference.
    """
    from scipy.sparse import diags_array

    step = 1.0 / (size - 1)
    bends = diags_array([1.0, -2.0, 1.0], offsets=[0, 1, 2], shape=(size - 2, size))
    slopes = diags_array([-1.0, 1.0], offsets=[0, 1], shape=(size - 1, size))
    return bends.T @ bends * (bend / step**3) + slopes.T @ slopes * (slope / step)


def robust_weights(error: Values) -> Values:
    """Return weights that fall where errors are far beyond the middle one."""
    scale = ROBUST * max(float(np.median(error)), LEAST_ERROR)
    return np.asarray(1.0 / (1.0 + (error / scale) ** 2))
