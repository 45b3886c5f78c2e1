"""Where an export begins in its master, however late: a few stretches of it looked for everywhere.

The short search (pairing.py) reaches a second and a half. Here stretches of the export in which
something moves are correlated with every place of the master; the offset on which most of them
agree is taken, and none where they do not agree.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress

import av
import numpy as np
import numpy.typing as npt

from ...decoded.frames import FrameReader, Opened, open_picture, planes_from
from ...decoded.grid import Rect
from ...model import Source
from ...spans.cutting import key_times
from .pairing import Signature, signature, thinned
from .rows import HeldRows, Rows, RowsByBlock, blocks, motions

STRETCH = 12
ANCHORS = 9
LEAST_AGREEING = 3
LEAST_LIKENESS = 0.9
"""Mean correlation of a stretch with its own place; unrelated pictures stay below 0.6."""
AS_LIKE = 1e-4
"""Two places as like as this cannot be told apart: coding alone moves a mean by as much."""
LEAST_MOTION = 2e-5
"""Of unit signatures, squared, from frame to frame: what stands still fits anywhere near."""
SEARCHED_S = (300, 120)
"""How far into master and export is looked: a file of another title must be refused in minutes, not
after hours of decoding."""
MOST_KEYS, FEWEST_KEYS, LEAST_ALIKE, ALIKE_KEYS = (240, 12), (20, 6), 2, 0.85
"""How many key pictures of master and export are looked at first, and how many of the export's must
find one that is alike: unrelated photographs correlate by 0.81 at most, by 0.7 in nine of ten."""


def anchored_offset(
    master: RowsByBlock, export: RowsByBlock, assumed: int | None = None
) -> int | None:
    """Return how many frames later in the master the export begins; None where nobody can tell.

    assumed: kept to by stretches that fit there as well as anywhere: loops fit in several places.
    """
    firsts = _moving(export)
    if not firsts or len(master) < STRETCH:
        return None
    votes: Counter[int] = Counter()
    for first, scores in zip(firsts, _scores(master, export, firsts), strict=True):
        place = _place(scores, None if assumed is None else first + assumed)
        if place is not None:
            votes[place - first] += 1
    if not votes:
        return None
    offset, agreeing = votes.most_common(1)[0]
    return offset if agreeing >= LEAST_AGREEING and 2 * agreeing > votes.total() else None


def _moving(export: RowsByBlock) -> list[int]:
    """Return where the stretches begin in which most moves, one of each part of the whole."""
    last = len(export) - STRETCH
    if last < 1:
        return []
    sums = np.convolve(motions(export), np.ones(STRETCH), "valid")
    parts = np.array_split(np.arange(last + 1), min(ANCHORS, last + 1))
    firsts = [int(part[np.argmax(sums[part])]) for part in parts]
    return [first for first in firsts if sums[first] > LEAST_MOTION * STRETCH]


def _scores(
    master: RowsByBlock, export: RowsByBlock, firsts: Sequence[int]
) -> npt.NDArray[np.float64]:
    """Return how like each stretch is to every place of the master: the sum over its rows."""
    stretches = np.stack([export.rows(np.arange(f, f + STRETCH)) for f in firsts])
    scores = np.zeros((len(firsts), len(master) - STRETCH + 1))
    for begin, block in blocks(master, overlap=STRETCH - 1):
        table = stretches @ block.T  # (stretch, row of it, row of the master)
        count = len(block) - STRETCH + 1
        if count < 1:
            continue
        parts = [table[:, row, row : row + count] for row in range(STRETCH)]
        scores[:, begin : begin + count] = np.sum(parts, axis=0)
    return scores


def _place(scores: npt.NDArray[np.float64], expected: int | None) -> int | None:
    """Return the place of the master that is most like a stretch; None where none is."""
    best = int(np.argmax(scores))
    if expected is not None and 0 <= expected < len(scores):
        best = expected if scores[best] - scores[expected] < AS_LIKE * STRETCH else best
    return best if scores[best] > LEAST_LIKENESS * STRETCH else None


def far_offset(master: Source, export: Source) -> int | None:
    """Return where the export begins in the master by all frames of their first minutes.

    None without an answer; at once, where not even key pictures are alike: then the export is of
    another film. Raises UnreadableFileError where a file cannot be decoded.
    """
    if not _may_share(master, export):
        return None
    sources = zip((master, export), SEARCHED_S, strict=True)
    rows = [_rows(_signatures(source, seconds)) for source, seconds in sources]
    return anchored_offset(HeldRows(rows[0]), HeldRows(rows[1]))


def _may_share(master: Source, export: Source) -> bool:
    """Return whether some of both files' key pictures are alike; True where that can't be seen."""
    there = _key_rows(master, SEARCHED_S[0], MOST_KEYS[0])
    here = _key_rows(export, SEARCHED_S[1], MOST_KEYS[1])
    if len(there) < FEWEST_KEYS[0] or len(here) < FEWEST_KEYS[1]:
        return True  # too few to tell; what is so short is searched soon
    alike = (here @ there.T).max(axis=1) > ALIKE_KEYS
    return int(alike.sum()) >= LEAST_ALIKE


def _key_rows(source: Source, seconds: int, most: int) -> Rows:
    """Return rows of at most so many key pictures, spread over the first seconds."""
    opened = open_picture(source.path, threads=1)
    with opened.container:
        times = [time for time in key_times(opened) if time * opened.tick < seconds]
        step = -(-len(times) // most) or 1
        opened.stream.codec_context.skip_frame = "NONKEY"
        return _rows(_key_signatures(opened, times[::step]))


def _key_signatures(opened: Opened, times: Sequence[int]) -> Iterator[Signature]:
    for time in times:
        with suppress(av.FFmpegError, OSError):
            opened.container.seek(time, stream=opened.stream, backward=True)
            picture = next(opened.container.decode(opened.stream), None)
            if picture is not None:
                yield signature(thinned(planes_from(picture, 0)), Rect())


def _signatures(source: Source, seconds: int) -> Iterable[Signature]:
    with FrameReader(source.path, source.reading.rate) as reader:
        for frame in reader.read(range(int(seconds * source.reading.rate))):
            yield signature(thinned(frame), Rect())


def _rows(found: Iterable[Signature]) -> Rows:
    rows = [_row(one) for one in found]
    return np.stack(rows) if rows else np.zeros((0, 1), np.float32)


def _row(one: Signature) -> Rows:
    """Return a signature a quarter as large, of unit length: thousands of them wait in memory."""
    height, width = one.shape
    small = one.reshape(height // 2, 2, width // 2, 2).mean(axis=(1, 3)).ravel()
    length = float(np.sqrt((small**2).sum()))
    return np.asarray(small / length if length > 1e-6 else small * 0, np.float32)
