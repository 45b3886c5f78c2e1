"""Where a sphere is joined, made large: around its seam, and at its poles."""

import cv2
import numpy as np

from ...geometry.sphere import Turn, places, window_directions
from ..decoded.grid import Real, Rect, sample
from ..model import SphereEnlargements
from ..model.sphere import Rows

SEAM_DEG, SEAM_SIZE = 10.0, (40, 96)
"""How far the picture is shown to both sides of the seam, and in how many columns and rows."""
POLE_DEG, POLE_SIZE = 70.0, (48, 48)


def enlargements_of(luma: Real) -> SphereEnlargements:
    """Return the views of one eye's luma (row, column), 10-bit codes."""
    return SphereEnlargements(
        seam=_seam(luma),
        top=_pole(luma, Turn(pitch=90)),
        bottom=_pole(luma, Turn(pitch=-90)),
    )


def _seam(luma: Real) -> Rows:
    side = SEAM_DEG / 360
    half = (SEAM_SIZE[0] // 2, SEAM_SIZE[1])
    right = sample(luma, Rect(1 - side, 0.0, side, 1.0), half)
    left = sample(luma, Rect(0.0, 0.0, side, 1.0), half)
    return _rows(np.concatenate([right, left], axis=1))


def _pole(luma: Real, looking: Turn) -> Rows:
    height, width = luma.shape
    ways = window_directions(POLE_SIZE, POLE_DEG, looking)
    columns, rows = (place.astype(np.float32) for place in places(ways, (width, height)))
    drawn = cv2.remap(luma, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)
    return _rows(np.asarray(drawn, np.float32))


def _rows(picture: Real) -> Rows:
    codes = np.clip(picture / 4 + 0.5, 0, 255).astype(int)
    return tuple(tuple(int(code) for code in row) for row in codes)
