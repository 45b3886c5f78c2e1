"""Which frame of the export is which of the master's: drops, repeats, trims and blends.

Every frame of both files left a mark (together/small.py). Marks are made free of brightness and
contrast, taken from the part that both show, and aligned by dynamic programming in a band round
the mapping that was assumed. A passage without motion fits any alignment: it is told as still,
and nothing is said to be missing in it.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .grid import Rect, sample
from .laying import Laying
from .loops import align_costs
from .model import TimeEvent, TimeFindings
from .registration import turned
from .together.model import FileFindings
from .together.plan import FrameMap

SIGNATURE = (32, 18)
BAND = 40
"""Frames to either side of the assumed mapping: more than a second and a half of film."""
LEAST_FRAMES = 3
LEAST_MOTION = 4e-5
"""Of a squared distance of signatures: what coding alone makes of one and the same frame."""
PENALTY_NOISES = 6.0
"""A drop or repeat must explain at least so many times the noise."""
STILL_SHARE = 0.25
"""A frame that moved by less than this share of what its master moved, stood still."""
BLEND_LOW, BLEND_HIGH = 0.15, 0.85
Signatures = npt.NDArray[np.float32]
Numbers = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class _Path:
    """Which master row each export row is matched with (-1: none), and at what distance."""

    rows: npt.NDArray[np.int64]
    distances: npt.NDArray[np.float64]


def find_timing(
    master: FileFindings, export: FileFindings, laying: Laying, frames: FrameMap
) -> TimeFindings | None:
    """Return how the export's frames follow the master's; None where too few have structure.

    frames: the mapping that was assumed when the files were read.
    """
    if min(len(master.numbers), len(export.numbers)) < LEAST_FRAMES:
        return None
    ours = _signatures(_upright(master.marks, laying), _in_master(laying.rect))
    theirs = _signatures(export.marks, laying.shared)
    if not np.abs(theirs).max(initial=0) > 0 or not np.abs(ours).max(initial=0) > 0:
        return None
    assumed = np.array([frames.master(int(n)) for n in export.numbers], np.int64)
    rows = np.searchsorted(master.numbers, assumed)
    table = _distances(ours, theirs, rows)
    noise = max(float(np.median(table.min(axis=1))), LEAST_MOTION)
    path = _aligned(table, rows, noise, len(ours))
    return _told(master.numbers, export.numbers, ours, theirs, path, noise)


def _upright(marks: Signatures, laying: Laying) -> Signatures:
    if not laying.turn and not laying.mirrored:
        return marks
    return np.stack([turned(mark, laying.turn, mirrored=laying.mirrored) for mark in marks])


def _in_master(place: Rect) -> Rect:
    """Return the part of the master that the export shows, in fractions of the master."""
    left, top = max(-place.left / place.width, 0.0), max(-place.top / place.height, 0.0)
    right = min((1 - place.left) / place.width, 1.0)
    bottom = min((1 - place.top) / place.height, 1.0)
    return Rect(left, top, right - left, bottom - top)


def _signatures(marks: Signatures, part: Rect) -> Signatures:
    """Return marks of a part of the picture as rows of unit length; 0 for an even picture."""
    cut = marks if part == Rect() else np.stack([sample(mark, part, SIGNATURE) for mark in marks])
    flat = cut.reshape(len(cut), -1).astype(np.float64)
    flat -= flat.mean(axis=1, keepdims=True)
    deviation = flat.std(axis=1, keepdims=True)
    unit = np.where(deviation > 0.5, flat / np.maximum(deviation, 1e-9), 0.0)
    return np.asarray(unit / np.sqrt(flat.shape[1]), np.float32)


def _distances(
    ours: Signatures, theirs: Signatures, rows: npt.NDArray[np.intp]
) -> npt.NDArray[np.float64]:
    """Return squared distances (export row, place in the band); 9 outside the master."""
    table = np.full((len(theirs), 2 * BAND + 1), 9.0)
    for i, row in enumerate(rows):
        first, end = max(int(row) - BAND, 0), min(int(row) + BAND + 1, len(ours))
        if first < end:
            away = ours[first:end].astype(np.float64) - theirs[i]
            table[i, first - int(row) + BAND : end - int(row) + BAND] = (away**2).sum(axis=1)
    return table


def _aligned(
    table: npt.NDArray[np.float64], rows: npt.NDArray[np.intp], noise: float, count: int
) -> _Path:
    """Return the cheapest way through the band: each step costs its distance, a jump more."""
    places = align_costs(table, np.asarray(rows, np.int64), PENALTY_NOISES * noise)
    found = rows + places - BAND
    outside = (found < 0) | (found >= count)
    distances = table[np.arange(len(table)), places]
    return _Path(np.where(outside, -1, found), distances)
