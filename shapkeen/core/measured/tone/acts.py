"""Acts on code values that a tone may have suffered, as curves. 10-bit codes throughout.

Factors follow from ITU-R BT.2100-2 table 9: 876 luma steps from black to white in limited
range, 1023 in full range.
"""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

FULL_TO_LIMITED = 876 / 1023
BLACK, WHITE, TOP = 64.0, 940.0, 1023.0
Vector = npt.NDArray[np.float64]


def squeezed(codes: Vector) -> Vector:
    """Return full-range codes squeezed into limited range (10 bits)."""
    return BLACK + codes * FULL_TO_LIMITED


def stretched(codes: Vector) -> Vector:
    """Return limited-range codes stretched to full range (10 bits), ends cut."""
    return np.clip((codes - BLACK) / FULL_TO_LIMITED, 0.0, TOP)


def powered(codes: Vector, exponent: float, *, full_range: bool) -> Vector:
    """Return codes taken through a power law on the signal 0..1."""
    black, white = (0.0, TOP) if full_range else (BLACK, WHITE)
    signal = np.clip((codes - black) / (white - black), 0.0, 1.2)
    return np.asarray(black + (white - black) * signal**exponent)


def lowered(codes: Vector, bits: int) -> Vector:
    """Return the mean codes of samples whose bits below so many were cut off."""
    return np.asarray(codes - ((1 << (10 - bits)) - 1) / 2)


ACTS: dict[str, Callable[[Vector], Vector]] = {
    "identity": lambda codes: codes,
    "range-compressed": squeezed,
    "range-expanded": stretched,
    "depth-reduced": lambda codes: lowered(codes, 7),
}
