"""A frame made small: what every frame of both files is reduced to, to be held against each other.

Whole factors where sides allow, so that a mean is exact and two files of one raster share one grid.
"""

from dataclasses import dataclass, field

import cv2
import numpy as np
import numpy.typing as npt

from ..decoded.frames import Frame, Plane, whole_rows
from ..decoded.grid import Real, Rect, Reduced, code_scale, sample
from ..decoded.loops import mean_blocks
from .place.registration import turned

LEAST_WIDTH = 640
"""Small pictures are at least this wide where the file's is, and less than twice as wide."""
SIGNATURE_SIZE = (32, 18)
Signature = npt.NDArray[np.float32]
"""A frame's signature: means of 18 × 32 places, 10-bit codes, by which moments are told apart."""


def small_picture(frame: Frame, *, full_range: bool) -> Reduced:
    """Return a frame's planes in 10-bit codes, each sample the mean of a square of the frame's."""
    side = max(frame.luma.shape[1] // LEAST_WIDTH, 1)
    scale = code_scale(frame.depth, full_range=full_range)
    return Reduced(*(_reduced(p, side, scale) for p in (frame.luma, frame.cb, frame.cr)))


def _reduced(plane: Plane, side: int, scale: float) -> Real:
    height, width = plane.shape
    out = np.zeros((max(height // side, 1), max(width // side, 1)), np.float32)
    if side == 1 or min(height, width) < side:
        return np.asarray(plane[: out.shape[0], : out.shape[1]] * np.float32(scale))
    if height % side or width % side:
        # Blocks would leave a line or two out, and all that is measured of place would be off.
        values = plane.astype(np.float32) * np.float32(scale)
        drawn = cv2.resize(values, out.shape[::-1], interpolation=cv2.INTER_AREA)
        return np.asarray(drawn, np.float32)
    mean_blocks(whole_rows(plane), width, side, scale, out)
    return out


@dataclass(frozen=True, slots=True)
class Part:
    """The part of a file's picture that the other shows too, and how it is turned there."""

    rect: Rect = field(default_factory=Rect)
    turn: int = 0
    mirrored: bool = False


def signature_of(small: Reduced, part: Part) -> Signature:
    """Return the signature of a small picture: of the part that the other file shows too."""
    luma = small.luma
    if part.turn or part.mirrored:
        luma = turned(luma, part.turn, mirrored=part.mirrored)
    return np.asarray(sample(luma, part.rect, SIGNATURE_SIZE), np.float32)


@dataclass(frozen=True, slots=True)
class SignatureSeries:
    """The signatures of one file's frames. numbers: (n,); signatures: (n, 18, 32)."""

    numbers: npt.NDArray[np.int64]
    signatures: npt.NDArray[np.float32]
