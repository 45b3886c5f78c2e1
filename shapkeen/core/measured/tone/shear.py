"""By how much the rows of a picture were moved to the side, the last the furthest."""

import cv2
import numpy as np

from ..decoded.grid import Real

BANDS, LEAST_BANDS, SHEARED_SAMPLES, LEAST_RESPONSE = 4, 3, 2.0, 0.2
"""Of rows: so many are laid over the master's, each by itself."""
OFF_SAMPLES, OFF_SHARE = 0.75, 0.06
"""How far a band may lie off the line of a shear, and as a share of it."""


def row_shear(predicted: Real, delivered: Real) -> float:
    """Return by how much further the last row was moved to the right than the first.

    By phase correlation (Kuglin and Hines 1975), as OpenCV has it, of bands of rows; 0 where fewer
    than three hold to their counterparts, or they lie on no line: what moves with its distance, in
    a pan or between two eyes, is not sheared.
    """
    height, width = predicted.shape
    high = height // BANDS
    window = cv2.createHanningWindow((width, high), cv2.CV_32F)
    places, moves = [], []
    for band in range(BANDS):
        rows = slice(band * high, (band + 1) * high)
        one, other = (np.ascontiguousarray(p[rows], np.float32) for p in (predicted, delivered))
        (across, down), response = cv2.phaseCorrelate(one, other, window)
        if response >= LEAST_RESPONSE and abs(down) <= SHEARED_SAMPLES:
            places.append((band + 0.5) / BANDS)
            moves.append(across)
    if len(moves) < LEAST_BANDS:
        return 0.0
    step, begin = np.polyfit(places, moves, 1)
    off = np.abs(np.polyval((step, begin), places) - moves).max()
    return float(step) if off <= max(OFF_SAMPLES, OFF_SHARE * abs(step)) else 0.0
