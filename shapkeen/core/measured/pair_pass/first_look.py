"""The first look: some tens of pairs reached by seeking, spread over both files.

Pairs are taken where they cost least: at key frames of one file whose counterpart lies close
behind a key frame of the other. What may be decoded is bounded by a budget of samples, so that a
first look at two hours takes as long as one at a minute.
"""

from bisect import bisect_right
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise

from ..alignment.time.frame_map import FrameMap, timeline_of
from ..decoded.frames import FrameReader, open_picture
from ..model import Source
from ..model.likeness import table_of
from ..spans.cutting import UNCUT, shown_key_times
from .likeness import likeness
from .merging import merge_spans
from .model import PassFindings, SpanFindings
from .views import ViewSampler
from .worker import Side, Task, look_closely

COUNTS = (24, 16, 12, 8, 6)
"""Pairs, from the most that are wanted to the fewest that tell anything."""
BUDGET_SAMPLES = 240_000_000
"""Of both files, decoded: some 3 s of two cores for H.265 of 10 bits."""
MEASURED_FRAMES = 4
"""What measuring a pair costs, in frames decoded."""
LANES = 2
"""Decoders wait for each other where pairs are few; two lanes of pairs keep two cores busy."""


@dataclass(frozen=True, slots=True)
class _Reach:
    """How a file's frames are reached. keys: rising numbers of its key frames; None: not known."""

    keys: tuple[int, ...] | None
    frames: int
    samples: int

    def cost(self, number: int) -> int:
        """Return how many frames are decoded to reach one."""
        if self.keys is None:
            return 12
        at = bisect_right(self.keys, number)
        return number - self.keys[at - 1] + 1 if at else number + 1


def _reach_of(source: Source) -> _Reach:
    opened = open_picture(source.path, threads=1)
    with opened.container as container:
        samples = int(opened.stream.width) * int(opened.stream.height)
        count = source.reading.frame_count or 1
        if container.format.name in UNCUT or opened.stream.start_time is None:
            return _Reach(None, count, samples)
        line = timeline_of(opened, source)
        keys = tuple(line.number(ticks) for ticks in shown_key_times(opened))
    return _Reach(keys or None, count, samples)


@dataclass(frozen=True, slots=True)
class FirstPlan:
    """Pairs of master and export frames, rising; keys: of both files, None where not known."""

    pairs: tuple[tuple[int, int], ...]
    keys: tuple[tuple[int, ...] | None, tuple[int, ...] | None]


def plan_first_pairs(master: Source, export: Source, frames: FrameMap) -> FirstPlan:
    """Return the pairs that a first look decodes: as many as the budget bears, spread evenly."""
    reaches = _reach_of(master), _reach_of(export)
    pairs: list[tuple[int, int]] = []
    for count in COUNTS:
        pairs = [_cheapest(window, reaches, frames) for window in _windows(reaches, frames, count)]
        if sum(_cost(reach, [p[side] for p in pairs]) for side, reach in enumerate(reaches)) <= (
            BUDGET_SAMPLES
        ):
            break
    return FirstPlan(tuple(pairs), (reaches[0].keys, reaches[1].keys))


def _cost(reach: _Reach, numbers: Sequence[int]) -> int:
    """Return the samples decoded and measured to see these rising frames of one file."""
    decoded, before = 0, -1
    for number in numbers:
        decoded += min(reach.cost(number), number - before if before >= 0 else number + 1)
        before = number
    return (decoded + MEASURED_FRAMES * len(numbers)) * reach.samples


def _windows(reaches: tuple[_Reach, _Reach], frames: FrameMap, pairs: int) -> list[range]:
    """Return stretches of the export's numbers that both files have, as many as pairs."""
    master, export = reaches
    first = max(0, -frames.offset)
    last = min(export.frames - 1, int((master.frames - 1 - frames.offset) / frames.ratio))
    count = max(last - first + 1, 0)
    pairs = min(pairs, count)
    edges = [first + count * i // pairs for i in range(pairs + 1)] if pairs else []
    return [range(low, high) for low, high in pairwise(edges)]


def _cheapest(window: range, reaches: tuple[_Reach, _Reach], frames: FrameMap) -> tuple[int, int]:
    """Return the pair of a window that costs least."""
    middle = window[len(window) // 2]
    tried = {middle}
    for side, reach in enumerate(reaches):
        for key in reach.keys or ():
            number = key if side else round((key - frames.offset) / frames.ratio)
            if number in window:
                tried.add(number)

    def cost(number: int) -> int:
        pair = frames.master(number), number
        parts = zip(reaches, pair, strict=True)
        return sum(reach.cost(n) * reach.samples for reach, n in parts)

    best = min(tried, key=lambda number: (cost(number), abs(number - middle)))
    return frames.master(best), best


def look_first(task: Task, plan: FirstPlan) -> PassFindings:
    """Return what a first look at these pairs of frames shows.

    Raises UnreadableFileError where not one of them can be decoded.
    """
    half = -(-len(plan.pairs) // LANES)
    lanes = [plan.pairs[start : start + half] for start in range(0, len(plan.pairs), half)]
    with ThreadPoolExecutor(LANES) as pool:
        return merge_spans(pool.map(lambda lane: _lane(task, lane, plan.keys), lanes))


def _lane(
    task: Task, pairs: Sequence[tuple[int, int]], keys: Sequence[Sequence[int] | None]
) -> SpanFindings:
    sides = [
        Side(source, line, part, task.master.reading.full_range)
        for source, line, part in zip(
            (task.master, task.export), task.lines, task.parts, strict=True
        )
    ]
    rate = float(task.export.reading.rate)
    sampler = ViewSampler(task.view_sampling, task.picture_map, sides[0].full_range, rate)
    series, chosen = [], []
    with (
        FrameReader(task.master.path, task.master.reading.rate, keys=keys[0]) as masters,
        FrameReader(task.export.path, task.export.reading.rate, keys=keys[1]) as exports,
    ):
        read = zip(
            pairs,
            masters.read([there for there, _ in pairs]),
            exports.read([here for _, here in pairs]),
            strict=False,
        )
        for (there, here), *frames in read:
            own, other = (
                side.see(frame, side.line.before(number + 1))
                for side, frame, number in zip(sides, frames, (there, here), strict=True)
            )
            sampler.see(sides[1].signatures[-1])
            sampler.add((own[0], other[0]), (own[1], other[1]))
            if task.picture_map is not None:
                series.append(likeness((there, here), own[1], other[1], task.picture_map))
            chosen.append(look_closely(task, own[0], other[0], task.wanted[here]))
    views = tuple(sampler.sampled_views)
    return SpanFindings(
        sides[0].result(), sides[1].result(), table_of(series), tuple(chosen), views
    )
