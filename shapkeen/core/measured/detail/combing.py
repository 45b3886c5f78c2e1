"""Whether a frame is woven from two fields: lines that part from their neighbours where it moves.

In a whole frame a line is more like the next one than like the one after that; where two moments
are woven and something moved between them, it is the other way round.
"""

from collections.abc import Sequence

import cv2
import numpy as np

from ..decoded.frames import Plane

BLOCK = 8
COMBED = 1.6
"""Energy between neighbouring lines ÷ between every other one. At this, one block in a thousand of
whole photographs passes for woven, and a quarter and more of two moments woven together."""
LEAST_CODES = 8.0
"""Root mean square between neighbouring lines, 10-bit codes: below, it is grain and coding."""


TWICE, SPARE_FRAMES = 2.0, 20
"""A pattern of lines combs by itself, now more, now less: by so many times its own share. One frame
in so many may be odd without telling anything; telecine weaves two in five."""


def woven_beyond(shares: Sequence[tuple[float, float]]) -> float | None:
    """Return by how much more of the export's picture is woven than the master's makes likely.

    shares: of master and export, of pairs of frames. The most that more than a twentieth of the
    frames show, so that looking at more frames does not find more by chance. None without any.
    """
    beyond = sorted((export - TWICE * master for master, export in shares), reverse=True)
    return beyond[len(beyond) // SPARE_FRAMES] if beyond else None


def comb_share(luma: Plane, depth: int) -> float:
    """Return the share of blocks, 8 × 8 samples, that are woven; 0 to 1."""
    scale = 2.0 ** (10 - depth)
    thin = luma[:, ::2].astype(np.float32) * np.float32(scale)
    near, far = np.square(np.diff(thin, axis=0))[:-1], np.square(thin[2:] - thin[:-2])
    size = (near.shape[1] // (BLOCK // 2), near.shape[0] // BLOCK)
    if min(size) < 2:
        return 0.0
    means = [cv2.resize(plane, size, interpolation=cv2.INTER_AREA) for plane in (near, far)]
    woven = (means[0] > COMBED * means[1]) & (means[0] > LEAST_CODES**2)
    return float(woven.mean())
