"""Direct alignment of one picture with another: the affine map under which both are most alike.

Enhanced correlation coefficient (Evangelidis and Psarakis 2008), as OpenCV has it; from coarse to
fine, since a round costs by the sample and the last ones alone need every sample.
"""

import cv2
import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real

ROUNDS = 40
SETTLED = 1e-4
"""Gain of the correlation, at which a round is the last."""
SMOOTH = 5
"""Samples: the side of the Gaussian that both are smoothed by first."""
LEAST_HEIGHT = 96
"""Samples: less, and half of them are no guide."""


def align_directly(
    here: Real, there: Real, start: Real, mask: npt.NDArray[np.uint8] | None = None
) -> npt.NDArray[np.float64] | None:
    """Return the 2×3 matrix from places of the first picture to places of the second.

    here, there: luma (row, column). start: the matrix to begin with. mask: 255 where the first
    picture counts, of its size. None where the two do not hold to each other.
    """
    every = np.full(here.shape, 255, np.uint8) if mask is None else mask
    begin = start
    if min(here.shape[0], there.shape[0]) >= 2 * LEAST_HEIGHT:
        halves = (_halved(here), _halved(there), _of_half(start))
        coarse = _refined(*halves, np.ascontiguousarray(every[::2, ::2]))
        begin = start if coarse is None else _of_whole(coarse)
    found = _refined(here, there, begin, every)
    return None if found is None else np.asarray(found, np.float64)


def _refined(here: Real, there: Real, start: Real, mask: npt.NDArray[np.uint8]) -> Real | None:
    rounds = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, ROUNDS, SETTLED)
    begin = start.astype(np.float32)  # a copy: it is written to
    try:
        _, found = cv2.findTransformECC(here, there, begin, cv2.MOTION_AFFINE, rounds, mask, SMOOTH)
    except cv2.error:
        return None  # it does not converge
    return np.asarray(found, np.float32)


def _halved(picture: Real) -> Real:
    height, width = picture.shape
    size = (-(-width // 2), -(-height // 2))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.float32)


def _of_half(matrix: Real) -> Real:
    """Return a map for pictures of half the size: sample p there is at 2p + ½ here."""
    shift = (matrix[:, :2] @ np.full(2, 0.5) + matrix[:, 2] - 0.5) / 2
    return np.column_stack([matrix[:, :2], shift]).astype(np.float32)


def _of_whole(matrix: Real) -> Real:
    shift = 2 * matrix[:, 2] + 0.5 - matrix[:, :2] @ np.full(2, 0.5)
    return np.column_stack([matrix[:, :2], shift]).astype(np.float32)
