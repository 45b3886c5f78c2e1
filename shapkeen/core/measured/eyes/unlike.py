"""How both eyes differ in what should be alike: colour, sharpness, and the moment they show."""

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.coding import Coding
from ..grid import Real, Reduced
from ..unlike import colour_difference
from .cells import cells_of, sized
from .matching import Fit
from .parallax import SIZE, Matched, laid_over

PATCH = 16
"""A side of the patches that colours are compared by, in samples of SIZE: lustre stays inside."""
FINE, COARSE = 1.0, 2.5
"""Radii, in samples, between which structure counts as fine, against what is coarser."""
MARK = (240, 135)
MOVED, CLEAR = 2.0, 0.6
"""How much more two following frames must differ than an eye from its own, so that the wrong one
would show; and what the right one must leave of that."""


def colour_between(left: Reduced, right: Reduced, matched: Matched, coding: Coding) -> float | None:
    """Return the mean difference that eyes see between both views' matched places, in ΔE.

    None where the coding is not known. Places that one eye alone sees do not count.
    """
    known = matched.known
    here, there = {"luma": sized(left.luma, SIZE)}, {"luma": laid_over(right.luma, matched)}
    half = (SIZE[0] // 2, SIZE[1] // 2)
    small = cv2.resize(known.astype(np.float32), half, interpolation=cv2.INTER_AREA) > 0.5
    for name in ("cb", "cr"):
        here[name] = sized(getattr(left, name), half)
        laid = cv2.resize(laid_over(getattr(right, name), matched), half)
        there[name] = np.where(small, laid, here[name]).astype(np.float32)
    there["luma"] = np.where(known, there["luma"], here["luma"]).astype(np.float32)
    found = colour_difference(here, there, coding, patch=PATCH)
    return round(found[0] / max(float(known.mean()), 0.05), 3) if found else None


def sharpness_between(left: npt.NDArray[Any], right: npt.NDArray[Any]) -> float | None:
    """Return the right eye's fine structure ÷ the left eye's, each against its coarser structure.

    left, right: luma at its full size. None where one has none.
    """
    shares = []
    for eye in (left, right):
        height, width = eye.shape
        part = np.ascontiguousarray(
            eye[height // 4 : -(height // 4), width // 4 : -(width // 4)], np.float32
        )
        fine = cv2.GaussianBlur(part, (0, 0), FINE)
        coarse = cv2.GaussianBlur(part, (0, 0), COARSE)
        shares.append((float(np.std(part - fine)), float(np.std(fine - coarse))))
    (left_fine, left_coarse), (right_fine, right_coarse) = shares
    if min(left_fine, right_fine, left_coarse, right_coarse) < 0.25:
        return None
    return round((right_fine / right_coarse) / (left_fine / left_coarse), 4)


def frames_late(
    masters: Sequence[Real], exports: Sequence[Real], way: str, cell: int, fit: Fit
) -> int | None:
    """Return by how many frames one eye is behind the other files' (-1, 0, 1); None if unknown.

    masters, exports: luma of the frame before and of this one. fit: how the eye lies over its own.
    """
    before, now = (sized(cells_of(luma, way)[cell], MARK) for luma in masters)
    own_before, own = (_unshifted(cells_of(luma, way)[cell], fit) for luma in exports)
    apart = {0: _apart(own, now), 1: _apart(own, before), -1: _apart(own_before, now)}
    moved = _apart(now, before)
    best = min(apart, key=lambda late: apart[late])
    if moved < MOVED * apart[best]:
        return None
    return best if best == 0 or apart[best] < CLEAR * apart[0] else None


def _unshifted(luma: Real, fit: Fit) -> Real:
    shift = np.array([[1, 0, -fit.dx * MARK[0]], [0, 1, -fit.dy * MARK[1]]], np.float64)
    made = cv2.warpAffine(sized(luma, MARK), shift, MARK, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(made, np.float32)


def _apart(one: Real, other: Real) -> float:
    edge = (slice(MARK[1] // 10, -(MARK[1] // 10)), slice(MARK[0] // 8, -(MARK[0] // 8)))
    a, b = one[edge] - one[edge].mean(), other[edge] - other[edge].mean()
    return float(np.mean((a - b) ** 2))
