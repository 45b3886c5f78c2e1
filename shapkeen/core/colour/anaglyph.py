"""Coloured glasses: both eyes in one picture, told apart by filters of two colours.

Source of the matrices: E. Dubois, "A projection method to generate anaglyph stereo images",
ICASSP 2001, and the tables published with it (red and cyan; amber and blue), entries from memory.
They are made so that what the wrong eye sees is least, for ordinary displays and filters. They act
on linear light of BT.709 primaries.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Real = npt.NDArray[np.floating]
LUMA = (0.2126, 0.7152, 0.0722)
"""ITU-R BT.709-6."""


@dataclass(frozen=True, slots=True)
class Glasses:
    """A pair of glasses: what each eye's picture becomes, and what each filter lets through.

    left, right: matrices (3, 3) on linear R, G, B. filters: shares of R, G and B that reach the
    left and the right eye. They leak what the matrices are made to cancel on grey.
    """

    name: str
    left: tuple[tuple[float, float, float], ...]
    right: tuple[tuple[float, float, float], ...]
    filters: tuple[tuple[float, float, float], tuple[float, float, float]]


RED_CYAN = Glasses(
    "red and cyan",
    left=((0.437, 0.449, 0.164), (-0.062, -0.062, -0.024), (-0.048, -0.050, -0.017)),
    right=((-0.011, -0.032, -0.007), (0.377, 0.761, 0.009), (-0.026, -0.093, 1.234)),
    filters=((0.85, 0.03, 0.01), (0.18, 0.75, 0.70)),
)
AMBER_BLUE = Glasses(
    "amber and blue",
    left=((1.062, -0.205, 0.299), (-0.026, 0.908, 0.068), (-0.038, -0.173, 0.022)),
    right=((-0.016, -0.123, -0.017), (0.006, 0.062, -0.017), (0.094, 0.185, 0.911)),
    filters=((0.80, 0.72, 0.07), (0.03, 0.05, 0.45)),
)
ALL = (RED_CYAN, AMBER_BLUE)


def combine(left: Real, right: Real, glasses: Glasses) -> Real:
    """Return both eyes' linear light (…, 3), 0..1, as one picture for these glasses, 0..1."""
    both = left @ np.array(glasses.left).T + right @ np.array(glasses.right).T
    return np.asarray(np.clip(both, 0.0, 1.0))


def plain_channels(glasses: Glasses) -> Glasses:
    """Return the same glasses with the plain way: each channel from the eye that sees it better."""
    to_left = [a >= b for a, b in zip(*glasses.filters, strict=True)]
    rows = np.eye(3)
    left, right = (
        tuple(tuple(float(v) for v in row * keep) for row, keep in zip(rows, keeps, strict=True))
        for keeps in (to_left, [not one for one in to_left])
    )
    return Glasses(glasses.name, left, right, glasses.filters)  # type: ignore[arg-type]  # 3 × 3


def ghosting(left: Real, right: Real, glasses: Glasses) -> tuple[float, float]:
    """Return what reaches each eye of the other's picture, as a share of its own: left, right.

    By the light that changes behind a filter when the other eye's picture is taken away.
    """
    whole, dark = combine(left, right, glasses), np.zeros_like(left)
    shares = []
    for seen, alone in zip(
        glasses.filters,
        (combine(left, dark, glasses), combine(dark, right, glasses)),
        strict=True,
    ):
        own = float((alone @ np.array(seen)).mean())
        stray = float(np.abs((whole - alone) @ np.array(seen)).mean())
        shares.append(stray / own if own > 0 else 0.0)
    return shares[0], shares[1]
