"""Which frame of the export is which of the master's: drops, repeats, trims and blends.

Every frame of both files left a signature (alignment/signature.py). They are made free of
brightness and contrast, taken from the part that both show, and aligned by dynamic programming in
a band round the mapping that was assumed. A passage without motion fits any alignment: it is told
as still, and nothing is said to be missing in it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from math import ceil

import numpy as np
import numpy.typing as npt

from ..alignment.signature import SHAPE, SignatureSeries
from ..alignment.time.anchors import anchored_offset
from ..alignment.time.frame_map import FrameMap
from ..alignment.time.rows import blocks, motions
from ..model import TimeEvent, TimeFindings
from .cheapest import cheapest_way

BAND = 40
"""Frames to either side of the assumed mapping: more than a second and a half of film."""
LEAST_FRAMES, LEAST_SHOWN = 3, 64
LEAST_MOTION = 2e-6
"""Of a squared distance of signatures: what coding alone makes of one and the same frame."""
PENALTY_NOISES = 6.0
"""A drop or repeat must explain at least so many times the noise."""
STANDING, LEAP = 0.35, 2.0
"""Of what the master moved, squared: a frame that repeats the one before it moves by less, and the
next one, twice as far on, by four times as much. Coding moves both ratios by a tenth or two."""
LEAST_MOVED = 2e-5
STILL_NOISES, BLEND_NOISES = 1.0, 4.0
MOVES_NOISES, HELD_NOISES = 1.0, 2.0
"""Motion and mixing are told from noise by so many times of it."""
FOREIGN_NOISES, FOREIGN = 60.0, 0.25
"""Squared distance from which a frame is none of the master's: unrelated pictures are 1 apart."""
BLEND_LOW, BLEND_HIGH = 0.15, 0.85
MOST_PLACES = 600
STRETCH = 64
"""Rows of the export whose distances are made at a time: few, since all are held against the same
part of the master."""
Row = npt.NDArray[np.float64]
Sides = tuple[float, float, float, float]
"""Top, bottom, left, right."""
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


def find_timing(
    master: SignatureSeries,
    export: SignatureSeries,
    frames: FrameMap,
    painted: Sides = (0.0, 0.0, 0.0, 0.0),
) -> Timed | None:
    """Return how the export's frames follow the master's; None where too few have structure.

    frames: the mapping that was assumed when the files were read. painted: bars that one of both
    has over its picture, as shares of it: what they hide tells no moment.
    """
    shown = _shown(painted)
    if min(len(master), len(export)) < LEAST_FRAMES:
        return None
    ours, theirs = _Rows(master, shown), _Rows(export, shown)
    if not ours.tell_something() or not theirs.tell_something():
        return None
    assumed = np.array([frames.master(int(n)) for n in export.numbers], np.int64)
    assumed += _far_off(ours, theirs, frames)
    rows = _rows(master.numbers, assumed)
    path, noise = _aligned(ours, theirs, rows)
    # What coding does to every frame alike says nothing of time; without it, motion stands out.
    theirs = _Rows(export, shown, _bias(ours, theirs, path))
    path, noise = _aligned(ours, theirs, rows)
    numbers, even = (master.numbers, export.numbers), frames.ratio == 1
    found = _told(numbers, (ours, theirs), path, noise, even=even)
    return Timed(found, _mapped(numbers, path, frames)) if found else None


def _shown(painted: Sides) -> npt.NDArray[np.bool_]:
    """Return the places of a signature that no bar hides; all, where bars hide nearly all."""
    height, width = SHAPE
    top, bottom, left, right = painted
    rows = slice(ceil(top * height), height - ceil(bottom * height))
    columns = slice(ceil(left * width), width - ceil(right * width))
    shown = np.zeros(SHAPE, bool)
    shown[rows, columns] = True
    return shown if shown.sum() >= LEAST_SHOWN else np.ones(SHAPE, bool)


@dataclass(frozen=True, slots=True)
class _Rows:
    """A file's signatures as rows of unit length, free of brightness and contrast, less a bias.

    shown: the places that count (18, 32). A row of an even picture is 0.
    """

    series: SignatureSeries
    shown: npt.NDArray[np.bool_]
    bias: Row | None = None

    def __len__(self) -> int:
        return len(self.series)

    def rows(self, wanted: Numbers) -> Row:
        """Return some of them (k, m), by their places from 0."""
        found = self.series.rows(wanted)
        flat = found[:, self.shown].astype(np.float64)
        flat -= flat.mean(axis=1, keepdims=True)
        deviation = flat.std(axis=1, keepdims=True)
        unit = np.where(deviation > 0.5, flat / np.maximum(deviation, 1e-9), 0.0)
        unit /= np.sqrt(flat.shape[1])
        return unit if self.bias is None else unit - self.bias

    def tell_something(self) -> bool:
        """Return whether any picture is not even."""
        return any(bool(block.any()) for _, block in blocks(self))


def _far_off(ours: _Rows, theirs: _Rows, frames: FrameMap) -> int:
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


def _tables(ours: _Rows, theirs: _Rows, rows: Numbers) -> Iterator[tuple[int, Row]]:
    """Yield blocks of squared distances (export row, place in the band); 9 outside the master."""
    band = np.arange(-BAND, BAND + 1)
    for first, end in _stretches(rows):
        wanted = rows[first:end, None] + band
        inside = (wanted >= 0) & (wanted < len(ours))
        table = np.full(wanted.shape, 9.0)
        if inside.any():
            begin, last = int(wanted[inside].min()), int(wanted[inside].max())
            there, here = ours.rows(np.arange(begin, last + 1)), theirs.rows(np.arange(first, end))
            away = (here**2).sum(axis=1)[:, None] + (there**2).sum(axis=1) - 2 * (here @ there.T)
            places = np.clip(wanted - begin, 0, last - begin)
            found = np.maximum(np.take_along_axis(away, places, axis=1), 0.0)
            table = np.where(inside, found, table)
        yield first, table


def _stretches(rows: Numbers) -> Iterator[tuple[int, int]]:
    """Yield stretches of the export whose places in the master lie near each other."""
    first = 0
    for end in range(1, len(rows) + 1):
        if end == len(rows) or end - first == STRETCH or abs(rows[end] - rows[end - 1]) > STRETCH:
            yield first, end
            first = end


def _rows(numbers: Numbers, assumed: Numbers) -> Numbers:
    """Return the rows of these numbers, beyond both ends too."""
    rows = np.searchsorted(numbers, assumed).astype(np.int64)
    rows = np.where(assumed > numbers[-1], len(numbers) - 1 + assumed - numbers[-1], rows)
    return np.where(assumed < numbers[0], assumed - numbers[0], rows)


def _bias(ours: _Rows, theirs: _Rows, path: _Path) -> Row | None:
    """Return the middle of what lies between matched frames; None where too few are."""
    matched = np.flatnonzero((path.rows >= 0) & (path.distances < FOREIGN))
    matched = matched[:: -(-len(matched) // MOST_PLACES)] if len(matched) else matched
    if len(matched) < LEAST_FRAMES:
        return None
    away = theirs.rows(matched) - ours.rows(path.rows[matched])
    return np.asarray(np.median(away, axis=0))


def _aligned(ours: _Rows, theirs: _Rows, rows: Numbers) -> tuple[_Path, float]:
    """Return the cheapest way through the band, and the noise: a frame's distance from its own.

    Each step costs its distance, a jump more. Distances are made twice, since of a film they would
    not fit into memory.
    """
    nearest = np.concatenate([table.min(axis=1) for _, table in _tables(ours, theirs, rows)])
    noise = max(float(np.median(nearest)), LEAST_MOTION)
    tables = _tables(ours, theirs, rows)
    found = rows + cheapest_way(tables, rows, 2 * BAND + 1, PENALTY_NOISES * noise) - BAND
    matched = np.where((found < 0) | (found >= len(ours)), -1, found)
    return _Path(matched, _along(ours, theirs, matched)), noise


def _along(ours: _Rows, theirs: _Rows, matched: Numbers) -> Row:
    """Return the squared distance of each row of the export from its own; 9 without one."""
    found = np.full(len(matched), 9.0)
    for begin, here in blocks(theirs):
        rows = matched[begin : begin + len(here)]
        there = ours.rows(np.maximum(rows, 0))
        away = ((here - there) ** 2).sum(axis=1)
        found[begin : begin + len(here)] = np.where(rows < 0, 9.0, away)
    return found


@dataclass(frozen=True, slots=True)
class _Series:
    """Everything that telling needs, by export row: its master row, distance, and motions.

    good: matched with a frame that it is like. moved: how far the master moved to get there; own:
    how far the export itself moved. noise: what coding alone moves.
    """

    rows: npt.NDArray[np.int64]
    good: npt.NDArray[np.bool_]
    moved: npt.NDArray[np.float64]
    own: npt.NDArray[np.float64]
    noise: float


def _series(ours: _Rows, theirs: _Rows, path: _Path, noise: float) -> _Series:
    rows = path.rows
    good = (rows >= 0) & (path.distances < max(FOREIGN_NOISES * noise, FOREIGN))
    moved, own = motions(ours)[np.maximum(rows, 0)], motions(theirs)
    return _Series(rows, good & ~_beyond(rows, own, len(ours), noise), moved, own, noise)


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
    signatures: tuple[_Rows, _Rows],
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
    # What moves by little more than coding may be held by the encoder, to the next key picture.
    least = max(LEAST_MOVED, HELD_NOISES * series.noise)
    return bool(moved > least and series.own[here] < STANDING * moved)


def _without_made_up(
    dropped: list[TimeEvent], repeated: list[TimeEvent]
) -> tuple[tuple[TimeEvent, ...], tuple[TimeEvent, ...]]:
    """Return the events without drops that only make up for a repeat right before them."""
    ends = {event.export_frame + event.count: event.count for event in repeated}
    left = [e for e in dropped if ends.get(e.export_frame) != e.count]
    return tuple(left), tuple(repeated)


def _blended(
    numbers: Numbers,
    signatures: tuple[_Rows, _Rows],
    series: _Series,
    path: _Path,
    noise: float,
) -> tuple[int, ...]:
    """Return the export's frames that two neighbours of the master mixed explain far better."""
    ours, theirs = signatures
    found = []
    for i in np.flatnonzero(series.good & (path.distances > BLEND_NOISES * noise)):
        row = int(series.rows[i])
        near = [other for other in (row - 1, row + 1) if 0 <= other < len(ours)]
        mine, *others = ours.rows(np.array([row, *near]))
        away = theirs.rows(np.array([i]))[0] - mine
        for other in others:
            way = other - mine
            length = float(way @ way)
            if length < BLEND_NOISES * noise:
                continue
            share = float(away @ way) / length
            left = float(((away - share * way) ** 2).sum())
            if BLEND_LOW < share < BLEND_HIGH and left < path.distances[i] / 3:
                found.append(int(numbers[i]))
                break
    return tuple(found)
