"""Which frame of the export is which of the master's: drops, repeats, trims and blends.

Every frame of both files left a signature (alignment/signature.py). They are made free of
brightness and contrast, taken from the part that both show, and aligned by dynamic programming in
a band round the mapping that was assumed. A passage without motion fits any alignment: it is told
as still, and nothing is said to be missing in it.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from ..alignment.signature import SignatureSeries
from ..alignment.time.anchors import anchored_offset
from ..alignment.time.frame_map import FrameMap
from ..decoded.loops import align_costs
from ..model import TimeEvent, TimeFindings

BAND = 40
"""Frames to either side of the assumed mapping: more than a second and a half of film."""
LEAST_FRAMES = 3
LEAST_MOTION = 2e-6
"""Of a squared distance of signatures: what coding alone makes of one and the same frame."""
PENALTY_NOISES = 6.0
"""A drop or repeat must explain at least so many times the noise."""
STANDING, LEAP = 0.35, 2.0
"""Of what the master moved, squared: a frame that repeats the one before it moves by less, and the
next one, twice as far on, by four times as much. Coding moves both ratios by a tenth or two."""
LEAST_MOVED = 2e-5
STILL_NOISES, BLEND_NOISES = 1.0, 4.0
MOVES_NOISES = 1.0
"""Motion and mixing are told from noise by so many times of it."""
FOREIGN_NOISES, FOREIGN = 60.0, 0.25
"""Squared distance from which a frame is none of the master's: unrelated pictures are 1 apart."""
BLEND_LOW, BLEND_HIGH = 0.15, 0.85
MOST_PLACES = 600
Signatures = npt.NDArray[np.float32]
Numbers = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class _Path:
    """Which master row each export row is matched with (-1: none), and at what distance."""

    rows: npt.NDArray[np.int64]
    distances: npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Timed:
    """How the export's frames follow the master's, and the mapping that says so for each."""

    findings: TimeFindings
    frames: FrameMap


def find_timing(master: SignatureSeries, export: SignatureSeries, frames: FrameMap) -> Timed | None:
    """Return how the export's frames follow the master's; None where too few have structure.

    frames: the mapping that was assumed when the files were read.
    """
    if min(len(master.numbers), len(export.numbers)) < LEAST_FRAMES:
        return None
    ours, theirs = _signatures(master.signatures), _signatures(export.signatures)
    if not np.abs(theirs).max(initial=0) > 0 or not np.abs(ours).max(initial=0) > 0:
        return None
    assumed = np.array([frames.master(int(n)) for n in export.numbers], np.int64)
    assumed += _far_off(ours, theirs, frames)
    rows = _rows(master.numbers, assumed)
    path, noise = _aligned(ours, theirs, rows)
    # What coding does to every frame alike says nothing of time; without it, motion stands out.
    theirs = theirs - _bias(ours, theirs, path)
    path, noise = _aligned(ours, theirs, rows)
    numbers, even = (master.numbers, export.numbers), frames.ratio == 1
    found = _told(numbers, (ours, theirs), path, noise, even=even)
    return Timed(found, _mapped(numbers, path, frames)) if found else None


def _far_off(ours: Signatures, theirs: Signatures, frames: FrameMap) -> int:
    """Return by how many frames the assumed mapping is off, where that is beyond the band."""
    if frames.ratio != 1 or frames.jumps:
        return 0
    offset = anchored_offset(ours, theirs, frames.offset)
    off = 0 if offset is None else offset - frames.offset
    return off if abs(off) > BAND // 2 else 0


def _mapped(numbers: tuple[Numbers, Numbers], path: _Path, frames: FrameMap) -> FrameMap:
    """Return the mapping of the way: where it leaves the assumed one, and by how much."""
    jumps: list[tuple[int, int]] = []
    shift = 0
    for number, row in zip(numbers[1], path.rows, strict=True):
        if row < 0:
            continue
        here = int(numbers[0][row]) - frames.plain(int(number))
        if here != shift:
            jumps.append((int(number), here))
            shift = here
    return replace(frames, jumps=tuple(jumps))


def _signatures(signatures: Signatures) -> Signatures:
    """Return rows of unit length, free of brightness and contrast; 0 for an even picture."""
    flat = signatures.reshape(len(signatures), -1).astype(np.float64)
    flat -= flat.mean(axis=1, keepdims=True)
    deviation = flat.std(axis=1, keepdims=True)
    unit = np.where(deviation > 0.5, flat / np.maximum(deviation, 1e-9), 0.0)
    return np.asarray(unit / np.sqrt(flat.shape[1]), np.float32)


def _distances(ours: Signatures, theirs: Signatures, rows: Numbers) -> npt.NDArray[np.float64]:
    """Return squared distances (export row, place in the band); 9 outside the master."""
    table = np.full((len(theirs), 2 * BAND + 1), 9.0)
    for i, row in enumerate(rows):
        first, end = max(int(row) - BAND, 0), min(int(row) + BAND + 1, len(ours))
        if first < end:
            away = ours[first:end].astype(np.float64) - theirs[i]
            table[i, first - int(row) + BAND : end - int(row) + BAND] = (away**2).sum(axis=1)
    return table


def _rows(numbers: Numbers, assumed: Numbers) -> Numbers:
    """Return the rows of these numbers, beyond both ends too."""
    rows = np.searchsorted(numbers, assumed).astype(np.int64)
    rows = np.where(assumed > numbers[-1], len(numbers) - 1 + assumed - numbers[-1], rows)
    return np.where(assumed < numbers[0], assumed - numbers[0], rows)


def _bias(ours: Signatures, theirs: Signatures, path: _Path) -> Signatures:
    """Return the middle of what lies between matched frames."""
    matched = np.flatnonzero((path.rows >= 0) & (path.distances < FOREIGN))
    matched = matched[:: -(-len(matched) // MOST_PLACES)] if len(matched) else matched
    if len(matched) < LEAST_FRAMES:
        return np.zeros_like(theirs[:1])
    return np.asarray(np.median(theirs[matched] - ours[path.rows[matched]], axis=0), np.float32)


def _aligned(ours: Signatures, theirs: Signatures, rows: Numbers) -> tuple[_Path, float]:
    """Return the cheapest way through the band, and the noise: a frame's distance from its own.

    Each step costs its distance, a jump more.
    """
    table = _distances(ours, theirs, rows)
    noise = max(float(np.median(table.min(axis=1))), LEAST_MOTION)
    places = align_costs(table, rows, PENALTY_NOISES * noise)
    found = rows + places - BAND
    outside = (found < 0) | (found >= len(ours))
    distances = table[np.arange(len(table)), places]
    return _Path(np.where(outside, -1, found), distances), noise


@dataclass(frozen=True, slots=True)
class _Series:
    """Everything that telling needs, by export row: its master row, distance, and motions.

    good: matched with a frame that it is like. moved: how far the master moved to get there; own:
    how far the export itself moved.
    """

    rows: npt.NDArray[np.int64]
    good: npt.NDArray[np.bool_]
    moved: npt.NDArray[np.float64]
    own: npt.NDArray[np.float64]


def _series(ours: Signatures, theirs: Signatures, path: _Path, noise: float) -> _Series:
    rows = path.rows
    good = (rows >= 0) & (path.distances < max(FOREIGN_NOISES * noise, FOREIGN))
    there = ours[np.maximum(rows, 0)].astype(np.float64)
    before = ours[np.maximum(rows - 1, 0)].astype(np.float64)
    moved = ((there - before) ** 2).sum(axis=1)
    own = np.zeros(len(theirs))
    own[1:] = (np.diff(theirs.astype(np.float64), axis=0) ** 2).sum(axis=1)
    return _Series(rows, good & ~_beyond(rows, own, len(ours), noise), moved, own)


def _beyond(
    rows: Numbers, own: npt.NDArray[np.float64], count: int, noise: float
) -> npt.NDArray[np.bool_]:
    """Return which rows of the export lie before the master's first frame or behind its last.

    They were matched with that frame for want of a better one, though they move on; a frame that is
    held stands still.
    """
    beyond = np.zeros(len(rows), bool)
    for end, there in ((count - 1, 1), (0, -1)):
        at = np.flatnonzero(rows == end)
        outer = at[1:] if there > 0 else at[:-1]
        moves = own[outer] if there > 0 else own[outer + 1]
        if len(outer) and float(np.median(moves)) > MOVES_NOISES * noise:
            beyond[outer] = True
    return beyond


def _told(
    numbers: tuple[Numbers, Numbers],
    signatures: tuple[Signatures, Signatures],
    path: _Path,
    noise: float,
    *,
    even: bool,
) -> TimeFindings | None:
    """Return the findings. even: whether both files have one frame for one of the other."""
    series = _series(*signatures, path, noise)
    matched = np.flatnonzero(series.good)
    if len(matched) < LEAST_FRAMES:
        return None
    first, last = int(matched[0]), int(matched[-1])
    dropped, repeated = _events(numbers, series, matched) if even else ((), ())
    still = series.moved[matched] < STILL_NOISES * noise
    thin = matched[:: -(-len(matched) // MOST_PLACES)]
    start = int(series.rows[first]), first
    end = len(signatures[0]) - 1 - int(series.rows[last]), len(series.good) - 1 - last
    # Frames of both that match nothing at one end are no trim: other pictures stand there.
    differing = min(start), min(end)
    return TimeFindings(
        matched=len(matched),
        trimmed_in=start[0] - differing[0],
        trimmed_out=end[0] - differing[1],
        added_in=start[1] - differing[0],
        added_out=end[1] - differing[1],
        foreign=int((~series.good[first : last + 1]).sum()) + sum(differing),
        dropped=dropped,
        repeated=repeated,
        blended=_blended(numbers[1], signatures, series, path, noise),
        still_share=float(still.mean()),
        noise=noise,
        way=tuple((int(numbers[1][i]), int(numbers[0][series.rows[i]])) for i in thin),
    )


def _events(
    numbers: tuple[Numbers, Numbers], series: _Series, matched: npt.NDArray[np.intp]
) -> tuple[tuple[TimeEvent, ...], tuple[TimeEvent, ...]]:
    """Return what is missing and what is shown again, between neighbours that both match."""
    dropped: list[TimeEvent] = []
    repeated: list[TimeEvent] = []
    for before, here in pairwise(matched):
        step = int(series.rows[here] - series.rows[before])
        gap = step - int(here - before)
        where = int(numbers[0][series.rows[before]]), int(numbers[1][here])
        if gap > 0:
            dropped.append(TimeEvent(where[0] + 1, where[1], gap))
        elif gap < 0:
            repeated.append(TimeEvent(where[0], where[1], -gap))
        elif held := _held(series, int(here)):
            repeated.append(TimeEvent(where[0], where[1], held))
    return _without_made_up(dropped, repeated)


def _held(series: _Series, here: int) -> int:
    """Return how many frames from here on stand still until a leap makes up for them.

    The master must have moved all the while; 0 where this is no such place.
    """
    if here and _stands(series, here - 1):
        return 0
    last = here
    while last < len(series.own) and _stands(series, last):
        last += 1
    if last == here or last >= len(series.own):
        return 0
    leap = series.own[last] > LEAP * series.moved[last] > 0
    return last - here if leap else 0


def _stands(series: _Series, here: int) -> bool:
    moved = series.moved[here]
    return bool(moved > LEAST_MOVED and series.own[here] < STANDING * moved)


def _without_made_up(
    dropped: list[TimeEvent], repeated: list[TimeEvent]
) -> tuple[tuple[TimeEvent, ...], tuple[TimeEvent, ...]]:
    """Return the events without drops that only make up for a repeat right before them."""
    ends = {event.export_frame + event.count: event.count for event in repeated}
    left = [e for e in dropped if ends.get(e.export_frame) != e.count]
    return tuple(left), tuple(repeated)


def _blended(
    numbers: Numbers,
    signatures: tuple[Signatures, Signatures],
    series: _Series,
    path: _Path,
    noise: float,
) -> tuple[int, ...]:
    """Return the export's frames that two neighbours of the master mixed explain far better."""
    ours, theirs = (signatures.astype(np.float64) for signatures in signatures)
    found = []
    for i in np.flatnonzero(series.good & (path.distances > BLEND_NOISES * noise)):
        row = int(series.rows[i])
        for other in (row - 1, row + 1):
            if not 0 <= other < len(ours):
                continue
            way = ours[other] - ours[row]
            length = float(way @ way)
            if length < BLEND_NOISES * noise:
                continue
            share = float((theirs[i] - ours[row]) @ way) / length
            left = float(((theirs[i] - ours[row] - share * way) ** 2).sum())
            if BLEND_LOW < share < BLEND_HIGH and left < path.distances[i] / 3:
                found.append(int(numbers[i]))
                break
    return tuple(found)
