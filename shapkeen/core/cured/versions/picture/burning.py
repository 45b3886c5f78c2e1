"""Timecode and text burnt into a review copy: in boxes whose place is known beforehand.

Letters: the font that OpenCV brings. Their white is SDR's: 203 cd/m² in PQ and HLG (ITU-R BT.2408).
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from ....colour import pq
from ....colour.coding import HLG, PQ
from ....geometry.framing import Area, Size
from ....geometry.timecode import timecode_of
from .grids import slices_of
from .maker import PLANES, Samples
from .sampling import Real

LINES, LETTERS, WEIGHT = 18, 0.62, 500
"""Boxes in the picture's height, letters in the box's; the weight of the strokes."""
WHITE_NITS, HLG_WHITE = 203.0, 0.75
WIDEST = "00:00:00:00"
MOST_TEXT = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class BurnIn:
    """What is burnt in: the master's timecode at the bottom, a line of text at the top."""

    timecode: bool = False
    text: str = ""

    def boxes(self, raster: Size) -> tuple[tuple[str, Area], ...]:
        """Return what stands where: "timecode" or the text, and its box in samples."""
        said = [("timecode", WIDEST, True)] if self.timecode else []
        said += [(self.text, self.text, False)] if self.text else []
        return tuple((what, _box(words, raster, low=low)) for what, words, low in said)

    def burn(
        self, planes: dict[str, npt.NDArray[Any]], goal: Samples, number: int, rate: Fraction
    ) -> None:
        """Write the boxes into a frame's planes. number: the master's frame, counted from 0."""
        for what, box in self.boxes(goal.raster):
            words = timecode_of(number, rate) if what == "timecode" else what
            _write(planes, goal, box, _letters(words, box.size))


NOTHING = BurnIn()


def _box(words: str, raster: Size, *, low: bool) -> Area:
    """Return the box of a line, its sides even, in the middle near the bottom or the top."""
    height = max(raster[1] // LINES // 2 * 2, 8)
    wide = min((_width(words, height) + height) // 2 * 2, raster[0])
    left = (raster[0] - wide) // 4 * 2
    margin = height // 2 * 2
    return Area(left, raster[1] - height - margin if low else margin, wide, height)


@lru_cache(maxsize=1)
def _font() -> Any:
    return cv2.FontFace("sans")


def _size(height: int) -> int:
    return max(round(height * LETTERS), 6)


def _width(words: str, height: int) -> int:
    found = cv2.getTextSize((8192, 64), words, (0, 32), _font(), _size(height), WEIGHT)
    return int(found[2])


@lru_cache(maxsize=64)
def _letters(words: str, size: Size) -> Real:
    """Return how much of each sample of a box letters cover, 0 to 1."""
    width, height = size
    drawn = np.zeros((height, width), np.uint8)
    left = (width - _width(words, height)) // 2
    base = height - round(height * (1 - LETTERS) / 2) - round(height * 0.06)
    cv2.putText(drawn, words, (max(left, 0), base), (255,), _font(), _size(height), WEIGHT)
    return np.asarray(drawn / 255, np.float32)


def _white(transfer: int) -> float:
    if transfer == PQ:
        return float(pq.signal_from_light(WHITE_NITS))
    return HLG_WHITE if transfer == HLG else 1.0


def _write(planes: dict[str, npt.NDArray[Any]], goal: Samples, box: Area, covered: Real) -> None:
    black, span = goal.scale_of("luma")
    codes = black + covered * span * _white(goal.coding.transfer)
    for plane in PLANES:
        place = slices_of(goal.lattice_of(plane), box)
        grey = goal.scale_of(plane)[0]
        planes[plane][place] = np.floor(codes + 0.5) if plane == "luma" else grey


def areas_of(burn: BurnIn, raster: Size) -> Iterator[dict[str, int]]:
    """Yield the boxes as a framing promises what lies over the picture."""
    for _, box in burn.boxes(raster):
        yield {"x": box.left, "y": box.top, "width": box.width, "height": box.height}
