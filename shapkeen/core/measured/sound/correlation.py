"""Correlation of two lines by Fourier transforms.

By NumPy alone: SciPy's signal package takes more than a second to load, in every process.
"""

from typing import Any

import numpy as np
import numpy.typing as npt

Line = npt.NDArray[Any]


def fast_length(least: int) -> int:
    """Return a length for transforms that are quick: a power of two, at least so many."""
    return 1 << max(least - 1, 0).bit_length()


def correlated(field: Line, pattern: Line) -> npt.NDArray[np.float64]:
    """Return the correlation of a field with a pattern at every shift that they touch at.

    Of length field + pattern - 1: at place `len(pattern) - 1 + shift` the sum of products where the
    pattern lies `shift` samples later.
    """
    whole = field.size + pattern.size - 1
    size = fast_length(whole)
    product = np.fft.rfft(field, size) * np.fft.rfft(pattern[::-1], size)
    return np.asarray(np.fft.irfft(product, size)[:whole], np.float64)


def correlated_inside(field: Line, pattern: Line) -> npt.NDArray[np.float64]:
    """Return the correlation where the pattern lies wholly inside the field."""
    return correlated(field, pattern)[pattern.size - 1 : field.size]
