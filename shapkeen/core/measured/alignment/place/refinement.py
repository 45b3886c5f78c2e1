"""Fine alignment: scale and shift of one picture in another, to hundredths of a sample.

Gauss–Newton on luma (Lucas and Kanade 1981), with a gain and a lift left free for tone. Four
numbers of place only: what a general affine map would add is noise here, since pictures are scaled
and moved by programs, hardly ever sheared.
"""

import cv2
import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real, Rect, sample
from ...decoded.loops import place_equations

ROUNDS = 6
SETTLED_SAMPLES = 0.004
MOST_STEP_SAMPLES = 2.0
"""A step further than this left the picture's hold: the guess stands."""
SMOOTH_SIGMA = 1.0
"""Resampling to a fraction of a sample changes the finest structure, which would pull."""
EDGE = 4


def aligned(master: Real, export: Real, place: Rect, active: Rect) -> Rect:
    """Return a place of the whole master in the export, aligned more finely.

    master, export: luma of any size. place: a guess that is off by a sample or two at most. active:
    the export's picture inside bars. Returns the guess where the two do not hold to each other.
    """
    height, width = export.shape
    goal = np.asarray(cv2.GaussianBlur(export, (0, 0), SMOOTH_SIGMA), np.float32)
    mask = _mask((width, height), place, active)
    if mask.sum() < 400:
        return place
    found = place
    for _ in range(ROUNDS):
        step = _step(master, goal, found, mask)
        if step is None or np.abs(step).max() > MOST_STEP_SAMPLES:
            return place
        left, right, top, bottom = step
        found = Rect(
            found.left + left / width,
            found.top + top / height,
            found.width + (right - left) / width,
            found.height + (bottom - top) / height,
        )
        if np.abs(step).max() < SETTLED_SAMPLES:
            break
    return found


def _mask(size: tuple[int, int], place: Rect, active: Rect) -> npt.NDArray[np.bool_]:
    """Return which samples of the export show the master, an edge left out."""
    sides = []
    for length, (low, span), (first, part) in (
        (size[0], (place.left, place.width), (active.left, active.width)),
        (size[1], (place.top, place.height), (active.top, active.height)),
    ):
        at = np.arange(length) + 0.5
        begin, end = max(low, first, 0.0) * length, min(low + span, first + part, 1.0) * length
        sides.append((at > begin + EDGE) & (at < end - EDGE))
    return np.asarray(sides[1][:, None] & sides[0][None, :])


def _step(
    master: Real, goal: Real, place: Rect, mask: npt.NDArray[np.bool_]
) -> npt.NDArray[np.float64] | None:
    """Return by how many export samples left, right, top and bottom edge should move."""
    height, width = goal.shape
    inverse = Rect(
        -place.left / place.width, -place.top / place.height, 1 / place.width, 1 / place.height
    )
    drawn = cv2.GaussianBlur(sample(master, inverse, (width, height)), (0, 0), SMOOTH_SIGMA)
    slopes = np.stack(
        [cv2.Sobel(drawn, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1))]
    )
    # Moving an edge moves each sample by its share of the way; the picture then lags behind.
    places = np.zeros((2, max(width, height)))
    places[0, :width] = ((np.arange(width) + 0.5) / width - place.left) / place.width
    places[1, :height] = ((np.arange(height) + 0.5) / height - place.top) / place.height
    normal, right = np.zeros((6, 6)), np.zeros(6)
    place_equations(drawn, goal, slopes, places, mask, normal, right)
    try:
        solved = np.linalg.solve(normal, right)
    except np.linalg.LinAlgError:
        return None
    if solved[4] <= 0:
        return None
    return np.asarray(solved[:4] / solved[4])
