"""Primaries and the linear matrices between them.

Sources: chromaticities ITU-T H.273 table 2; derivation SMPTE RP 177:1993.
"""

from functools import lru_cache

import numpy as np
import numpy.typing as npt

D65 = (0.3127, 0.3290)
CHROMATICITIES = {
    # code: red, green, blue, white as CIE 1931 xy
    1: ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060), D65),
    5: ((0.640, 0.330), (0.290, 0.600), (0.150, 0.060), D65),
    6: ((0.630, 0.340), (0.310, 0.595), (0.155, 0.070), D65),
    7: ((0.630, 0.340), (0.310, 0.595), (0.155, 0.070), D65),
    9: ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046), D65),
    11: ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060), (0.314, 0.351)),
    12: ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060), D65),
}


@lru_cache
def xyz_from_rgb(code: int) -> npt.NDArray[np.float64]:
    """Return the (3, 3) matrix from linear R, G, B of an H.273 code to XYZ, white at Y = 1.

    Raises KeyError for a code without known chromaticities.
    """
    *corners, white = CHROMATICITIES[code]
    columns = np.array([[x / y, 1.0, (1 - x - y) / y] for x, y in corners]).T
    white_xyz = np.array([white[0] / white[1], 1.0, (1 - white[0] - white[1]) / white[1]])
    return np.asarray(columns * np.linalg.solve(columns, white_xyz))


@lru_cache
def between(source: int, goal: int) -> npt.NDArray[np.float64]:
    """Return the (3, 3) matrix from linear RGB of one code to another's, not adapted."""
    return np.asarray(np.linalg.solve(xyz_from_rgb(goal), xyz_from_rgb(source)))
