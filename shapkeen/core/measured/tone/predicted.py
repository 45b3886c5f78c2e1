"""What the whole picture's tone makes of the expected luma, so that only what was changed in places
differs from it."""

from collections.abc import Mapping

import cv2
import numpy as np

from ..decoded.grid import Real

CURVE_BINS, COLOUR_BINS, THIN, STEPS = 32, 24, 4, 4
LEAST_A_BIN = 8
COLOUR_TELLS = 0.6


def predicted_luma(planes: Mapping[str, Real], delivered: Real) -> Real:
    """Return what the whole picture's tone makes of the expected luma: of all colours alike, or of
    each by itself, where that tells much more: a fold of HDR may follow the brightest channel."""
    alike = _through_middle_curve(planes["luma"], delivered)
    apart = alike + _moved_by_colour(planes, alike, delivered)
    left = [
        float(np.percentile(np.abs(delivered - one)[::THIN, ::THIN], 90)) for one in (alike, apart)
    ]
    return apart if left[1] < COLOUR_TELLS * left[0] else alike


def _moved_by_colour(planes: Mapping[str, Real], alike: Real, delivered: Real) -> Real:
    """Return by how much each tone of each colour lies off the curve of all, in the middle."""
    height, width = alike.shape
    chroma = [
        cv2.resize(planes[name], (width, height), interpolation=cv2.INTER_NEAREST)
        for name in ("cb", "cr")
    ]
    steps = (CURVE_BINS, COLOUR_BINS, COLOUR_BINS)
    places = [
        np.clip(plane / 1024 * count, 0, count - 1).astype(np.intp)
        for plane, count in zip((planes["luma"], *chroma), steps, strict=True)
    ]
    place = np.ravel_multi_index(tuple(places), steps)
    some = place[::THIN, ::THIN].ravel()
    off = (delivered - alike)[::THIN, ::THIN].ravel()
    order = np.lexsort((off, some))
    found, starts, counts = np.unique(some[order], return_index=True, return_counts=True)
    middles = np.zeros(int(np.prod(steps)), np.float32)
    enough = counts >= LEAST_A_BIN
    middles[found[enough]] = off[order][(starts + counts // 2)[enough]]
    return np.asarray(middles[place])


def _through_middle_curve(expected: Real, delivered: Real) -> Real:
    """Return what the whole picture's tone makes of the expected luma."""
    some, others = (plane[::THIN, ::THIN].ravel() for plane in (expected, delivered))
    place = np.clip(some / 1024 * CURVE_BINS, 0, CURVE_BINS - 1).astype(np.intp)
    xs, ys = [], []
    for number in range(CURVE_BINS):
        members = place == number
        if members.sum() >= LEAST_A_BIN:
            xs.append(float(np.median(some[members])))
            ys.append(float(np.median(others[members])))
    if not xs:
        return expected
    steps = np.interp(np.arange(1024 * STEPS) / STEPS, xs, ys).astype(np.float32)
    return np.asarray(steps[np.clip(expected * STEPS, 0, len(steps) - 1).astype(np.intp)])
