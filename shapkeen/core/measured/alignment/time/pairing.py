"""Which export frame is which master frame: a lone offset, and the frames to compare."""

from collections.abc import Sequence
from fractions import Fraction

import numpy as np
import numpy.typing as npt

from ...decoded.frames import Frame
from ...decoded.grid import Rect, sample
from ...model import Reading

SIGNATURE = (18, 32)
SHORT_WINDOW, LONG_WINDOW = 12, 72
"""Frames of the opening: where the first few leave no doubt that both begin together, the others
need not be looked at."""
CLEAR_LIKENESS, LEAST_GAIN = 0.98, 0.0003
"""Beginning together is beyond doubt where the opening is as alike as this, and less alike by this
at any other offset: coding moves a mean correlation by less, a still passage by nothing at all."""
MOST_OFFSET = 36
LEAST_OVERLAP, LEAST_FRAMES = 8, 2
CLEAR_GAIN = 0.004
"""How much better (in mean correlation) an offset must fit than none: a still passage fits
every offset alike, and then the frames are taken to begin together."""

Signature = npt.NDArray[np.float32]


def thinned(frame: Frame) -> npt.NDArray[np.float32]:
    """Return a few lines and columns that stand for the luma: for finding, not measuring."""
    height, width = frame.luma.shape
    return frame.luma[:: max(height // 144, 1), :: max(width // 256, 1)].astype(np.float32)


def signature(luma: npt.NDArray[np.float32], active: Rect) -> Signature:
    """Return 18 × 32 block means of the picture inside bars, free of brightness and contrast."""
    means = sample(luma, active, (SIGNATURE[1], SIGNATURE[0])).copy()
    means -= means.mean()
    deviation = float(means.std())
    return np.asarray(means / deviation if deviation > 0.5 else means * 0, dtype=np.float32)


def clear_offset(master: Sequence[Signature], export: Sequence[Signature]) -> int | None:
    """Return 0 where few frames leave no doubt that both begin together; None otherwise."""
    if min(len(master), len(export)) < LEAST_FRAMES:
        return 0
    scores = _offset_scores(np.stack(master), np.stack(export))
    next_best = max((score for offset, score in scores.items() if offset), default=-1.0)
    clear = scores[0] > max(CLEAR_LIKENESS, next_best + LEAST_GAIN)
    return 0 if clear else None


def best_offset(master: Sequence[Signature], export: Sequence[Signature]) -> int:
    """Return how many frames later in the master the export begins (negative: earlier).

    0 where no other offset fits clearly better.
    """
    if min(len(master), len(export)) < LEAST_FRAMES:
        return 0
    # A mirrored or overturned export must not pass for one that begins elsewhere.
    flips = [(1, 1), (1, -1), (-1, 1), (-1, -1)]
    tables = [
        _offset_scores(np.stack(master), np.stack(export)[:, ::down, ::across])
        for down, across in flips
    ]
    scores = max(tables, key=lambda table: max(table.values()))
    best = max(scores, key=lambda offset: (scores[offset], -abs(offset)))
    return best if scores[best] > scores.get(0, -1.0) + CLEAR_GAIN else 0


def _offset_scores(master: Signature, export: Signature) -> dict[int, float]:
    """Return offset → mean correlation; signatures as (frame, row, column)."""
    m, e = master.reshape(len(master), -1), export.reshape(len(export), -1)
    table = e @ m.T / m.shape[1]
    scores = {}
    # A clip of a few frames lies whole within the other one.
    least = min(LEAST_OVERLAP, len(m), len(e))
    for offset in range(-MOST_OFFSET, MOST_OFFSET + 1):
        along = np.diagonal(table, offset)
        if len(along) >= least:
            scores[offset] = float(along.mean())
    return scores


def frame_ratio(master: Reading, export: Reading) -> Fraction:
    """Return how many frames of the master pass with one of the export.

    Equal counts or rates pair by number (a relabelled rate keeps its frames); else by time.
    """
    counts = (master.frame_count, export.frame_count)
    if master.rate != export.rate and (
        None in counts or abs((counts[0] or 0) - (counts[1] or 0)) > 2
    ):
        return master.rate / export.rate
    return Fraction(1)


def plan_pairs(
    master: Reading, export: Reading, *, offset: int, frames: int
) -> list[tuple[int, int]]:
    """Return (master frame, export frame) numbers, evenly spread over what both have."""
    ratio = frame_ratio(master, export)
    last = (export.frame_count or 1) - 1
    if master.frame_count is not None:
        last = min(last, int((master.frame_count - 1 - offset) / ratio))
    first = max(0, -offset)
    if last < first:
        return []
    count = min(frames, last - first + 1)
    spread = np.linspace(first, last, count + 2)[1:-1] if count < last - first + 1 else None
    numbers = range(first, last + 1) if spread is None else [round(float(v)) for v in spread]
    pairs = [(round(number * ratio) + offset, number) for number in dict.fromkeys(numbers)]
    return sorted(dict(pairs).items())
