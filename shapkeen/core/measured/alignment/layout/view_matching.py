"""One view placed over another: how far it is shifted, and how alike both are then."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import cv2
import numpy as np

from ...decoded.grid import Real
from ..place.direct import align_directly
from ..place.likeness import correlation
from .cells import sized

SIZE = (384, 216)
FINE = (768, 432)
MOST_SHIFT = 0.12
"""Of the width: more is no shift between eyes."""
LEAST_LIKENESS = 0.75
"""As of pictures that are registered."""
SURE_LIKENESS = 0.985
"""No other start leads to a better place."""
SAME_START = 0.5
"""Samples: the alignment itself covers so little."""
NOISE = 0.001
"""What coding alone leaves unlike; with less, a lead would be chance."""


@dataclass(frozen=True, slots=True)
class Fit:
    """How a picture lies over another: right and down as shares of its sides, and how alike.

    size: how many times as large it is, the mean of both ways.
    """

    likeness: float
    dx: float = 0.0
    dy: float = 0.0
    size: float = 1.0


def fit(here: Real, there: Real, *, fine: bool = False) -> Fit:
    """Return how the first picture lies against the second, by shift (and a little scale) alone.

    Both luma (row, column). fine: on more samples, to a hundredth of one.
    """
    size = FINE if fine else SIZE
    first, second = (sized(picture, size) for picture in (here, there))
    if min(first.std(), second.std()) < 1:
        return Fit(0.0)
    best = _shifted(first, second, np.eye(2, 3, dtype=np.float32))
    for start in _starts(first, second):
        found = _aligned(first, second, start)
        best = max(best, found, key=lambda each: each.likeness) if found else best
        if best.likeness > SURE_LIKENESS:
            break
    return best


def _starts(first: Real, second: Real) -> list[Real]:
    window = cv2.createHanningWindow((first.shape[1], first.shape[0]), cv2.CV_32F)
    (dx, dy), _ = cv2.phaseCorrelate(first, second, window)
    found = [np.eye(2, 3, dtype=np.float32)]
    far = max(abs(dx) / first.shape[1], abs(dy) / first.shape[0])
    if far < MOST_SHIFT and max(abs(dx), abs(dy)) > SAME_START:
        found.append(np.array([[1, 0, dx], [0, 1, dy]], np.float32))
    return found


def _aligned(first: Real, second: Real, start: Real) -> Fit | None:
    matrix = align_directly(first, second, start)
    if matrix is None:
        return None
    turned = max(abs(matrix[0, 1]), abs(matrix[1, 0]))
    grown = max(abs(matrix[0, 0] - 1), abs(matrix[1, 1] - 1))
    if turned > 0.02 or grown > 0.15:
        return None
    return _shifted(first, second, np.asarray(matrix, np.float32))


def _shifted(first: Real, second: Real, matrix: Real) -> Fit:
    """Return the fit of a map from the first picture's places to the second's."""
    height, width = first.shape
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    layout = cv2.warpAffine(second, matrix, (width, height), flags=flags, borderValue=-1.0)
    mask = cv2.erode((layout > -0.5).astype(np.uint8), np.ones((9, 9), np.uint8)).astype(bool)
    if mask.mean() < 0.5:
        return Fit(0.0)
    x, y = (width - 1) / 2, (height - 1) / 2
    to_x = matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]
    to_y = matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]
    likeness = correlation(first, np.asarray(layout, np.float32), mask)
    size = 2 / float(matrix[0, 0] + matrix[1, 1])
    return Fit(likeness, float(x - to_x) / width, float(y - to_y) / height, size)


@dataclass(frozen=True, slots=True)
class ViewOrder:
    """Which of the master's eyes sits in each cell of the export, and how surely.

    likeness: of the worst cell. shifts: how each cell lies against its eye (right, down as shares
    of its size, how large). lead: what the next best seating leaves unlike, ÷ what this one does.
    """

    eyes: tuple[int, ...]
    likeness: float
    lead: float
    shifts: tuple[tuple[float, float, float], ...] = ()


def view_order(frames: Sequence[tuple[Sequence[Real], Sequence[Real]]]) -> ViewOrder:
    """Return the likeliest seating over some frames: (master's two eyes, export's cells)."""
    fits = [[[fit(cell, eye) for eye in eyes] for cell in cells] for eyes, cells in frames]
    likes = np.median([[[one.likeness for one in row] for row in table] for table in fits], axis=0)
    ways = product(range(likes.shape[1]), repeat=likes.shape[0])
    left = {
        way: float(np.mean([1 - likes[cell, eye] for cell, eye in enumerate(way)])) for way in ways
    }
    ordered = sorted(left, key=lambda way: left[way])
    best = tuple(ordered[0])
    worst = float(min(likes[cell, eye] for cell, eye in enumerate(best)))
    next_best = left[ordered[1]] if len(ordered) > 1 else np.inf
    lead = (next_best + NOISE) / (left[best] + NOISE)
    return ViewOrder(best, worst, float(lead), _shifts(fits, best))


def _shifts(
    fits: Sequence[list[list[Fit]]], eyes: tuple[int, ...]
) -> tuple[tuple[float, float, float], ...]:
    """Return how each cell lies against the eye that sits in it, in the middle of all frames."""
    found = []
    for cell, eye in enumerate(eyes):
        seen = [(one.dx, one.dy, one.size) for one in (table[cell][eye] for table in fits)]
        dx, dy, size = np.median(seen, axis=0)
        found.append((float(dx), float(dy), float(size)))
    return tuple(found)
