"""Finding which part of the master an export shows, where it shows only a window of it.

Corners rarely match where a window is a third of the picture; so windows of the export's shape
are slid over the master (normalised cross-correlation, as OpenCV's matchTemplate has it) at rising
zooms, and the best is refined by direct alignment (registration.py).
"""

from collections.abc import Iterator, Sequence

import cv2
import numpy as np

from ...decoded.grid import Real, Rect

ZOOM_STEP, MOST_ZOOM = 1.06, 3.0
"""Direct alignment pulls in a scale that is wrong by half a step."""
SAME_SHAPE = 0.02
LEAST_SIDE = 16
"""Smaller windows, in samples of the grid, look alike everywhere."""


def window_place(master: Real, export: Real, shapes: Sequence[float]) -> Rect | None:
    """Return where the whole master lies if the export shows a window of it; None for no guess.

    master, export: on one grid, both squashed to it. shapes: shown shape of the export ÷ shown
    shape of the master, as far as it may be (players differ in the pixel aspect they obey).
    """
    best, place = 0.0, None
    master, export = (_halved(plane) for plane in (master, export))
    for across, down in _windows(shapes):
        size = (round(master.shape[1] * across), round(master.shape[0] * down))
        if min(size) < LEAST_SIDE:
            continue
        window = cv2.resize(export, size, interpolation=cv2.INTER_AREA)
        scores = cv2.matchTemplate(master, window, cv2.TM_CCOEFF_NORMED)
        _, score, _, (x, y) = cv2.minMaxLoc(scores)
        if score > best:
            best = score
            wide, high = size[0] / master.shape[1], size[1] / master.shape[0]
            left, top = x / master.shape[1], y / master.shape[0]
            place = Rect(-left / wide, -top / high, 1 / wide, 1 / high)
    return place


def _halved(plane: Real) -> Real:
    """Return a plane half as large: an eighth of the work, and refined afterwards anyway."""
    size = (plane.shape[1] // 2, plane.shape[0] // 2)
    return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32)


def _windows(shapes: Sequence[float]) -> Iterator[tuple[float, float]]:
    """Yield windows as shares of the master's width and height, from the largest on."""
    for shape in dict.fromkeys(shapes):
        widest = (min(shape, 1.0), min(1 / shape, 1.0))
        zoom = 1.0 if abs(shape - 1) > SAME_SHAPE else ZOOM_STEP
        while zoom < MOST_ZOOM:
            yield widest[0] / zoom, widest[1] / zoom
            zoom *= ZOOM_STEP
