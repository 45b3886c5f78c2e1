"""Which export frame is which master frame: a lone offset, and the frames to compare."""

from collections.abc import Sequence
from fractions import Fraction

import numpy as np
import numpy.typing as npt

from .bars import BarFinder, active_rect
from .frames import Frame, FrameReader
from .grid import Rect, sample
from .model import Reading, Source

SIGNATURE = (18, 32)
WINDOW_FRAMES = 72
MOST_OFFSET = 36
LEAST_OVERLAP = 8
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


def best_offset(master: Sequence[Signature], export: Sequence[Signature]) -> int:
    """Return how many frames later in the master the export begins (negative: earlier).

    0 where no other offset fits clearly better.
    """
    if min(len(master), len(export)) < LEAST_OVERLAP:
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
    for offset in range(-MOST_OFFSET, MOST_OFFSET + 1):
        along = np.diagonal(table, offset)
        if len(along) >= LEAST_OVERLAP:
            scores[offset] = float(along.mean())
    return scores


def find_offset(master: Source, export: Source) -> tuple[int, int]:
    """Return the offset by the files' first frames, and how many frames were decoded for it."""
    (one, decoded_one), (other, decoded_other) = _signatures(master), _signatures(export)
    return best_offset(one, other), decoded_one + decoded_other


def _signatures(source: Source) -> tuple[list[Signature], int]:
    """Return the first frames' signatures: of the picture alone, so that bars don't count."""
    bars = BarFinder()
    lumas, raster = [], (1, 1)
    with FrameReader(source.path, source.reading.rate) as reader:
        for frame in reader.read(range(WINDOW_FRAMES)):
            bars.add(frame)
            raster = frame.raster
            lumas.append(thinned(frame))
        decoded = reader.decoded
    active = active_rect(bars.result(), raster)
    return [signature(luma, active) for luma in lumas], decoded


def plan_pairs(
    master: Reading, export: Reading, *, offset: int, frames: int
) -> list[tuple[int, int]]:
    """Return (master frame, export frame) numbers, evenly spread over what both have.

    Equal counts or rates pair by number (a relabelled rate keeps its frames); else by time.
    """
    ratio = Fraction(1)
    counts = (master.frame_count, export.frame_count)
    if master.rate != export.rate and (
        None in counts or abs((counts[0] or 0) - (counts[1] or 0)) > 2
    ):
        ratio = master.rate / export.rate
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
