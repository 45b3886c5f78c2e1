"""How like one picture laid over another is to it, on one small grid."""

import cv2
import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real, Rect, sample
from .uncovered import uncovered

GRID = (512, 288)
SURE_LIKENESS = 0.9
"""From here on nobody asks what may cover a picture."""
COVERED_ZOOM = 1.6
SMOOTH_SIGMA = 3.0


def correlation(one: Real, other: Real, mask: npt.NDArray[np.bool_] | None = None) -> float:
    """Return the normalised correlation of two planes of one size, -1 to 1; 0 if one is flat."""
    a, b = (one[mask], other[mask]) if mask is not None else (one.ravel(), other.ravel())
    if a.size < 64:
        return 0.0
    a, b = a - a.mean(), b - b.mean()
    norm = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / norm if norm > 1e-6 else 0.0


def structure(plane: Real) -> Real:
    """Return a plane without what is smooth in it."""
    return np.asarray(plane - cv2.GaussianBlur(plane, (0, 0), SMOOTH_SIGMA), np.float32)


def seen_in(rect: Rect, active: Rect) -> npt.NDArray[np.bool_]:
    """Return which GRID samples lie in both rectangles, an eroded edge left out."""
    width, height = GRID
    x, y = (np.arange(width) + 0.5) / width, (np.arange(height) + 0.5) / height
    in_x = (x > max(rect.left, active.left)) & (
        x < min(rect.left + rect.width, active.left + active.width)
    )
    in_y = (y > max(rect.top, active.top)) & (
        y < min(rect.top + rect.height, active.top + active.height)
    )
    mask = in_y[:, None] & in_x[None, :]
    return np.asarray(cv2.erode(mask.astype(np.uint8), np.ones((3, 3), np.uint8)), dtype=bool)


def placed_at(master: Real, rect: Rect) -> Real:
    """Return the master (GRID) drawn at its place in the export's GRID."""
    inverse = Rect(
        -rect.left / rect.width, -rect.top / rect.height, 1 / rect.width, 1 / rect.height
    )
    return sample(master, inverse, GRID)


def is_near(rect: Rect) -> bool:
    """Return whether the whole lies nearly where it did: only then is it asked what covers it."""
    return all(1 / COVERED_ZOOM < side < COVERED_ZOOM for side in (rect.width, rect.height))


def likeness_at(master: Real, export: Real, rect: Rect, active: Rect) -> float:
    """Return how like a master (GRID) laid at a place is to its export (GRID), where both show
    picture."""
    mask = seen_in(rect, active)
    if mask.mean() < 0.1:
        return 0.0
    placed = placed_at(master, rect)
    likeness = correlation(placed, export, mask)
    if likeness >= SURE_LIKENESS or not is_near(rect):
        return likeness
    if (seen := uncovered(placed, export, mask)) is not None:
        return max(likeness, correlation(placed, export, seen))
    return likeness
