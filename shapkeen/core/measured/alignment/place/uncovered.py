"""Which part of a picture still shows the master's, where something was laid over it.

Bars, a burnt-in timecode or a mark do not make another film of a picture: beside them it follows
the master's place by place, which pictures of different films nowhere do.
"""

import cv2
import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real

SIDE = 15
"""Samples of the grid (512 × 288) a side of a place."""
TEXTURE_CODES = 5.0
ALIKE, LEAST_ALIKE = 0.7, 0.55
"""Correlation of a place that follows, and the share of places that must: of two photographs laid
over each other 1 in 50 places follows, of one with a quarter covered 3 in 4."""
LEAST_TOLD = 0.3
"""Of the samples looked at: a smooth picture, much enlarged, follows any other by chance."""
OFF_CODES, LEAST_SPREAD = 90.0, 4.0
Mask = npt.NDArray[np.bool_]


def uncovered(one: Real, other: Real, mask: Mask) -> Mask | None:
    """Return which samples of two planes follow each other; None where too few do.

    mask: where to look.
    """
    mean_one, mean_other = _mean(one), _mean(other)
    spread_one, spread_other = (
        np.maximum(_mean(plane * plane) - mean * mean, 0)
        for plane, mean in ((one, mean_one), (other, mean_other))
    )
    covariance = _mean(one * other) - mean_one * mean_other
    textured = np.maximum(spread_one, spread_other) > TEXTURE_CODES**2
    follows = covariance > ALIKE * np.sqrt(spread_one * spread_other + TEXTURE_CODES**2)
    told = textured & mask
    if told.sum() < LEAST_TOLD * mask.sum() or float(follows[told].mean()) < LEAST_ALIKE:
        return None
    sure = told & follows
    slope, level = _line(mean_one[sure], mean_other[sure])
    near = np.abs(mean_other - slope * mean_one - level) < OFF_CODES
    good = mask & near & (follows | ~textured)
    return np.asarray(cv2.erode(good.astype(np.uint8), np.ones((5, 5), np.uint8)), bool)


def _line(given: Real, came: Real) -> tuple[float, float]:
    """Return slope and level of the line through both; of tones all but alike, how far they lie
    apart, for those have no slope."""
    xs, ys = given.astype(np.float64), came.astype(np.float64)
    spread = float(xs.var())
    slope = float(np.cov(xs, ys, bias=True)[0, 1]) / spread if spread > LEAST_SPREAD**2 else 1.0
    return slope, float(ys.mean() - slope * xs.mean())


def _mean(plane: Real) -> Real:
    return np.asarray(cv2.blur(plane, (SIDE, SIDE)), np.float32)
