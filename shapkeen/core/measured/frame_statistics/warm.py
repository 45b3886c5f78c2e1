"""Compiles the loops for the usual kinds of picture, so that the first survey need not wait.

Usage: python -m shapkeen.core.measured.frame_statistics.warm
"""

import os
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from ...colour.coding import HLG, PQ
from ..decoded.frames import Frame
from ..model import Reading
from .counter import Counter

SIZE = 16


def warm() -> None:
    """Count one small frame of each kind: 8 bits and more, PQ and HLG, as decoders give them."""
    for depth in (8, 10):
        kind = np.uint8 if depth == 8 else np.uint16
        planes = [_still(np.full((side, side), 1 << (depth - 1), kind)) for side in (SIZE, 8, 8)]
        frame = Frame(number=0, depth=depth, luma=planes[0], cb=planes[1], cr=planes[2])
        for transfer in (PQ, HLG):
            reading = Reading(
                full_range=False,
                transfer=transfer,
                matrix=9,
                rate=Fraction(24),
                frame_count=1,
                primaries=9,
            )
            Counter(reading, frame.raster, depth).add(frame, 0)


def are_compiled() -> bool:
    """Return whether the loops lie compiled where Numba keeps them: then loading is quick."""
    folder = os.environ.get("NUMBA_CACHE_DIR", "")
    return bool(folder) and any(Path(folder).rglob("kernels.count_frame*.nbi"))


def _still(plane: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """Return a plane that may not be written to, as a decoder's are: the compiler knows both."""
    plane.setflags(write=False)
    return plane


if __name__ == "__main__":
    warm()
