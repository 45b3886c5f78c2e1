"""The pattern of an ordered dither: no steps where there were none.

Source: B. E. Bayer, An Optimum Method for Two-Level Rendition of Continuous-Tone Pictures (1973).
It stands still from frame to frame, which coding likes.
"""

import numpy as np

from .sampling import Real

SIDE = 8


def _pattern() -> Real:
    """Return the pattern: 64 values, even steps, above -½ and below ½."""
    made = np.zeros((1, 1))
    while len(made) < SIDE:
        made = np.block([[4 * made, 4 * made + 2], [4 * made + 3, 4 * made + 1]])
    return ((made + 0.5) / made.size - 0.5).astype(np.float32)


PATTERN = _pattern()
