"""Eyes frame after frame: from each frame to the next, near and far things change places.

What moves in a film goes on moving the same way. Between two views in turn, whatever stands out
from the rest goes one way and then back again.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from ...decoded.grid import Real
from .cells import sized
from .view_matching import fit

SIZE = (240, 136)
LEAST_FLOWS, MOST_FLOWS = 3, 8
BACK_AGAIN = -0.6
"""Correlation of one step with the next, the mean taken out; films show more than 0."""
LEAST_PARALLAX = 0.25
"""Samples by which near and far must move apart to be told."""
CLEAR = 0.7


def is_frame_sequential(lumas: Sequence[Real]) -> bool:
    """Return whether following frames (row, column; 10-bit codes) alternate between two views."""
    pictures = [_bytes(sized(luma, SIZE)) for luma in lumas[: MOST_FLOWS + 1]]
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST)
    none = np.zeros((SIZE[1], SIZE[0], 2), np.float32)
    steps = []
    for one, other in pairwise(pictures):
        away = flow.calc(one, other, none.copy())[..., 0]
        steps.append(away - np.median(away))
    if len(steps) < LEAST_FLOWS:
        return False
    deep = float(np.median([step.std() for step in steps]))
    back = [_correlation(one, other) for one, other in pairwise(steps)]
    return deep > LEAST_PARALLAX and float(np.median(back)) < BACK_AGAIN


def _bytes(luma: Real) -> Real:
    return np.asarray(np.clip(luma / 4, 0, 255), np.uint8)


def _correlation(first: Real, second: Real) -> float:
    norm = float(np.sqrt((first * first).sum() * (second * second).sum()))
    return float((first * second).sum()) / norm if norm > 1e-6 else 0.0


@dataclass(frozen=True, slots=True)
class Order:
    """Whether an export's eyes follow each other the other way round, and whether that is sure."""

    swapped: bool
    sure: bool


def frame_sequential_order(masters: Sequence[Real], exports: Sequence[Real]) -> Order:
    """Return how an export's eyes follow each other, against its master's of the same frames."""
    same, other = [], []
    for at in range(0, min(len(masters), len(exports)) - 1, 2):
        ones, others = masters[at : at + 2], exports[at : at + 2]
        same.append(sum(1 - fit(others[i], ones[i]).likeness for i in (0, 1)))
        other.append(sum(1 - fit(others[i], ones[1 - i]).likeness for i in (0, 1)))
        if len(same) == LEAST_FLOWS:
            break
    here, there = float(np.median(same or [1.0])), float(np.median(other or [1.0]))
    return Order(there < here, min(here, there) < CLEAR * max(here, there))
