"""Luma–chroma matrices. Source: ITU-T H.273 table 4 (Kr, Kb) and equations 38 to 43."""

import numpy as np
import numpy.typing as npt

WEIGHTS = {
    # code: Kr, Kb
    1: (0.2126, 0.0722),
    4: (0.30, 0.11),
    5: (0.299, 0.114),
    6: (0.299, 0.114),
    7: (0.212, 0.087),
    9: (0.2627, 0.0593),
}


def ycbcr_from_rgb(code: int) -> npt.NDArray[np.float64]:
    """Return the (3, 3) matrix from R'G'B' to Y' (0..1), Cb, Cr (-0.5..0.5).

    Raises KeyError for a code that is no such matrix.
    """
    kr, kb = WEIGHTS[code]
    luma = np.array([kr, 1 - kr - kb, kb])
    blue = (np.array([0.0, 0.0, 1.0]) - luma) / (2 * (1 - kb))
    red = (np.array([1.0, 0.0, 0.0]) - luma) / (2 * (1 - kr))
    return np.stack([luma, blue, red])


def rgb_from_ycbcr(code: int) -> npt.NDArray[np.float64]:
    """Return the inverse of `ycbcr_from_rgb`."""
    return np.asarray(np.linalg.inv(ycbcr_from_rgb(code)))
