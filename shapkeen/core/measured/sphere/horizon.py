"""Whether a sphere is level, by its upright lines: each lies on a circle through the zenith.

An edge sample and its direction span a circle round the sphere. Walls, masts and trunks give
circles that all meet in the zenith: the lean of the picture is where most of them meet. Where
nothing stands upright, no lean is clearer than the others, and nothing can be told.
"""

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from ...geometry.sphere import Turn, directions
from ..decoded.grid import Real, Rect, sample
from ..model import Horizon

SIZE = (512, 256)
MOST_DEG, STEP_DEG = 16.0, 0.5
EDGES, LEAST_EDGES = 3000, 400
NEAR_DEG = 1.0
"""A circle passes the zenith within so much, to count for it."""
HIGH_DEG = 62.0
"""Nearer to the poles every line runs through them."""
CLEAR = 2.6
"""How many times as many circles must meet as at an ordinary lean."""
LEAST_EDGE_CODES = 12.0


def horizon_of(luma: Real) -> Horizon | None:
    """Return how a sphere's upright lines lean; None where too few agree.

    luma: (row, column) of a whole sphere, 10-bit codes. Leans up to MOST_DEG are looked for.
    """
    normals = _normals(sample(luma, Rect(), SIZE))
    if len(normals) < LEAST_EDGES:
        return None
    near = np.float32(np.sin(np.radians(NEAR_DEG)))
    table = np.stack(
        [np.clip(1 - np.abs(normals @ downs) / near, 0, None).sum(axis=0) for downs in _downs()]
    )
    smooth = cv2.GaussianBlur(table, (0, 0), 1.0)
    at = np.unravel_index(int(smooth.argmax()), smooth.shape)
    clear = float(smooth[at] / max(np.median(smooth), 1e-6))
    if clear < CLEAR:
        return None
    return Horizon(
        pitch=round(_peak(smooth[:, at[1]], int(at[0])), 2),
        roll=round(_peak(smooth[at[0]], int(at[1])), 2),
        clear=round(clear, 2),
    )


@lru_cache
def _downs() -> tuple[Real, ...]:
    """Return, for each pitch, where straight down went with each roll: (3, rolls)."""
    angles = np.arange(-MOST_DEG, MOST_DEG + STEP_DEG / 2, STEP_DEG)
    return tuple(
        np.stack([Turn(0, pitch, roll).matrix()[:, 1] for roll in angles], axis=1).astype(
            np.float32
        )
        for pitch in angles
    )


def _peak(row: npt.NDArray[Any], at: int) -> float:
    """Return the angle of a maximum, between steps by a parabola."""
    off = 0.0
    if 0 < at < len(row) - 1:
        bend = row[at - 1] - 2 * row[at] + row[at + 1]
        off = 0.5 * float(row[at - 1] - row[at + 1]) / float(bend) if bend else 0.0
    return -MOST_DEG + (at + off) * STEP_DEG


def _normals(picture: Real) -> Real:
    """Return the normals (n, 3) of the circles on which the strongest upright edges lie."""
    smooth = cv2.GaussianBlur(picture, (0, 0), 1.2)
    latitude = (0.5 - (np.arange(SIZE[1]) + 0.5) / SIZE[1]) * np.pi
    stretch = np.cos(latitude)[:, None]
    across = cv2.Sobel(smooth, cv2.CV_32F, 1, 0) / np.maximum(stretch, 0.1)  # on the sphere
    down = cv2.Sobel(smooth, cv2.CV_32F, 0, 1)
    strength = np.hypot(across, down)
    upright = np.abs(across) > 2 * np.abs(down)
    usable = np.abs(np.degrees(latitude))[:, None] < HIGH_DEG
    score = np.where(upright & usable & (strength > LEAST_EDGE_CODES), strength, 0).ravel()
    chosen = np.argsort(-score)[:EDGES]
    chosen = chosen[score[chosen] > 0]
    rows, columns = np.unravel_index(chosen, picture.shape)
    points = directions(SIZE)[rows, columns]
    east = np.stack([points[:, 2], 0 * points[:, 0], -points[:, 0]], axis=1)
    east /= np.linalg.norm(east, axis=1, keepdims=True)
    south = np.cross(points, east)
    slope = across[rows, columns, None] * east + down[rows, columns, None] * south
    # The gradient is square to the edge: with the place itself it spans the circle's normal.
    return np.asarray(slope / np.linalg.norm(slope, axis=1, keepdims=True), np.float32)
