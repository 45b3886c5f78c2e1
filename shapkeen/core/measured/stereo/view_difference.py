"""How both eyes differ in what should be alike: colour and sharpness."""

from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.coding import Coding
from ..alignment.layout.cells import sized
from ..decoded.grid import Reduced
from ..decoded.metrics import colour_difference
from .parallax import SIZE, Matched, laid_over

PATCH = 16
"""A side of the patches that colours are compared by, in samples of SIZE: lustre stays inside."""
FINE, COARSE = 1.0, 2.5
"""Radii, in samples, between which structure counts as fine, against what is coarser."""


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
        layout = cv2.resize(laid_over(getattr(right, name), matched), half)
        there[name] = np.where(small, layout, here[name]).astype(np.float32)
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
