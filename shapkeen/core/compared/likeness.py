"""Whether two files show one film, told from a few frames of each before anything is measured.

A frame is told by which of its places are brighter than which: that outlives every change of tone,
transfer, size and rate, and bars are cut away first. It proposes where a file belongs; it is never
evidence for a verdict.
"""

from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt

from ..declared import read_declaration
from ..judged import plan_reading
from ..measured.decoded.frames import Frame, FrameReader

FRAMES = 5
"""Of each film, spread evenly: few, for each may take a seek through a group of pictures."""
SMALL, SIZE = (64, 36), (32, 18)
FLAT = 0.012
"""Standard deviation of luma, of full scale, below which a frame tells nothing (black, a fade)."""
DARK = 0.09
"""Luma of full scale that bars lie below: black of limited range is 0.063."""
ALIKE = 0.8
"""Likeness from which two files are taken for one film; how often rightly: docs/bringing-in.md."""
Marks = tuple[tuple[int, ...], ...]
"""A film's frames: of each the ranks, by brightness, of 18 × 32 places."""
Real = npt.NDArray[np.float32]


def marks_of(path: Path) -> Marks:
    """Return what a film is known again by; empty where its frames tell nothing.

    Raises UnreadableFileError.
    """
    reading = plan_reading(read_declaration(path))
    count = max(reading.frame_count or 1, 1)
    numbers = sorted({int((place + 0.5) / FRAMES * count) for place in range(FRAMES)})
    with FrameReader(path, reading.rate, gap_s=0) as reader:
        marks = [_mark(frame) for frame in reader.read(numbers)]
    return tuple(mark for mark in marks if mark)


def likeness(one: Marks, other: Marks) -> float:
    """Return how alike two films are, 0 to 1: the median of what each frame finds in the other.

    The one with fewer frames asks, for an export may be a part of the film. 0 where one is empty.
    """
    if not one or not other:
        return 0.0
    few, many = sorted((_even(one), _even(other)), key=len)
    return float(max(np.median((few @ many.T).max(axis=1)), 0.0))


@lru_cache(maxsize=2048)
def _even(marks: Marks) -> npt.NDArray[np.float64]:
    """Return ranks (frame, place) with mean 0 and length 1, so that a product correlates them."""
    ranks = np.asarray(marks, dtype=np.float64)
    ranks -= ranks.mean(axis=1, keepdims=True)
    return np.asarray(ranks / np.linalg.norm(ranks, axis=1, keepdims=True))


def _mark(frame: Frame) -> tuple[int, ...]:
    luma = frame.luma.astype(np.float32) / np.float32((1 << frame.depth) - 1)
    small = cv2.resize(luma, SMALL, interpolation=cv2.INTER_AREA)
    if small.std() < FLAT:
        return ()
    picture = np.ascontiguousarray(_without_bars(np.asarray(small, dtype=np.float32)))
    places = cv2.resize(picture, SIZE, interpolation=cv2.INTER_AREA).ravel()
    ranks = np.empty(places.size, dtype=np.int64)
    ranks[places.argsort(kind="stable")] = np.arange(places.size)
    return tuple(ranks.tolist())


def _without_bars(small: Real) -> Real:
    rows, columns = (np.flatnonzero(small.max(axis=axis) > DARK) for axis in (1, 0))
    if len(rows) < 4 or len(columns) < 4:
        return small
    return small[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
