"""Samples that repeat: an enlargement by whole ratios without a kernel, told from one picture."""

import numpy as np

from ..decoded.grid import Real

LEAST_STEP = 2.0
"""Mean difference between neighbours, 10-bit codes: a picture with less repeats nothing."""


def repeated_samples(luma: Real) -> tuple[float, int]:
    """Return by how much less samples differ within groups than between them, and of how many.

    0 equal, 1 alike; the lesser of both axes. luma: (row, column), 10-bit codes.
    """
    return max((_repeated(luma, ratio), ratio) for ratio in (2, 3, 4))


def _repeated(luma: Real, ratio: int) -> float:
    found = []
    for plane in (luma, luma.T):
        steps = np.abs(np.diff(plane, axis=1)).mean(axis=0)
        steps = steps[: len(steps) // ratio * ratio].reshape(-1, ratio).mean(axis=0)
        between = int(np.argmax(steps))
        if steps[between] < LEAST_STEP:
            return 0.0
        within = np.delete(steps, between)
        found.append(1 - float(within.max()) / float(steps[between]))
    return min(found)
