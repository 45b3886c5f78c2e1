"""Two eyes: a photographed pair that scikit-image ships, and photographs with depth put in."""

from collections.abc import Sequence
from functools import lru_cache

import cv2
import numpy as np
from skimage import data

from .media import Planes, coded, photo_frames

SIZE = (640, 360)
FRAMES = 8
CLOSER = 38
"""Samples by which the photographed pair is converged: as it is, all of it lies far in front."""

Eyes = tuple[np.ndarray, np.ndarray]


@lru_cache
def motorcycle() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return left and right eye, and left − right place of each sample of the left eye.

    Middlebury 2014 stereo data, as scikit-image ships it; inf where that is not known.
    """
    left, right, disparity = data.stereo_motorcycle()
    return left, right, disparity


@lru_cache(maxsize=8)
def eyes_frames(scene: str = "motorcycle", count: int = FRAMES) -> tuple[Eyes, ...]:
    """Return sRGB frames 0..1 of left and right eye: a window that wanders over the scene."""
    return tuple(_motorcycle(count) if scene == "motorcycle" else _with_depth(scene, count))


def _motorcycle(count: int) -> list[Eyes]:
    left, right, _ = motorcycle()
    right = np.roll(right, CLOSER, axis=1)
    made = []
    for number in range(count):
        x, y = 52 + number * 4, 60 + number * 2
        parts = (eye[y : y + 360, x : x + 640].astype(np.float32) / 255 for eye in (left, right))
        made.append(tuple(parts))
    return made


def _with_depth(photo: str, count: int) -> list[Eyes]:
    """Return a photograph seen by two eyes: waves of depth, up to 1.5 % of the width each way."""
    columns, rows = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
    depth = 0.0075 * SIZE[0] * (np.sin(columns / 90) + np.cos(rows / 70))
    maps = (columns + depth).astype(np.float32), rows.astype(np.float32)
    return [
        (frame, cv2.remap(frame, *maps, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT).clip(0, 1))
        for frame in photo_frames(photo, SIZE, count)
    ]


def packed(frames: Sequence[Eyes], *, way: str = "left-right", half: bool = False) -> list[Planes]:
    """Return BT.709 limited-range planes of both eyes in one picture, first-named first."""
    stacked = "top" in way
    made = []
    for left, right in frames:
        first, second = (left, right) if way in ("left-right", "top-bottom") else (right, left)
        if half:
            width, height = SIZE
            size = (width, height // 2) if stacked else (width // 2, height)
            first, second = (
                cv2.resize(eye, size, interpolation=cv2.INTER_AREA) for eye in (first, second)
            )
        both = np.concatenate([first, second], axis=0 if stacked else 1)
        made.append(coded(both.astype(np.float32), matrix=1, depth=8))
    return made


def shifted(frames: Sequence[Eyes], *, dx: int = 0, dy: int = 0) -> list[Eyes]:
    """Return eyes with the right one moved right and down by samples; what is bare is black."""
    made = []
    for left, right in frames:
        moved = np.roll(right, (dy, dx), axis=(0, 1))
        if dx > 0:
            moved[:, :dx] = 0
        if dx < 0:
            moved[:, dx:] = 0
        if dy > 0:
            moved[:dy] = 0
        if dy < 0:
            moved[dy:] = 0
        made.append((left, moved))
    return made
