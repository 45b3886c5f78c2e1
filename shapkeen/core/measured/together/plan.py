"""Cutting both files of a pair at one moment each, so that a span of both is decoded once.

A cut lies at a key frame of the export, and where the choice is free, close behind a key frame of
the master: what lies between is decoded for nothing.
"""

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise, zip_longest
from typing import NamedTuple

from ..decoded.frames import Opened, open_picture
from ..model import Source
from ..whole.spans import (
    LEAST_SPAN_S,
    MOST_SPANS,
    UNCUT,
    Span,
    cuts_of,
    key_times,
    shown_at,
)

WINDOW = 2
"""A cut is looked for within so many times the least length of a span."""


class PairSpan(NamedTuple):
    """A part of both files; None where the export has ended."""

    master: Span
    export: Span | None


@dataclass(frozen=True, slots=True)
class Timeline:
    """How frames of a file are numbered. start: ticks of frame 0; tick: seconds; rate: frames/s.

    untimed: a bare coded stream, whose pictures are numbered as they come.
    """

    start: int
    tick: Fraction
    rate: Fraction
    untimed: bool

    def number(self, ticks: int) -> int:
        """Return the number of the frame shown at this time."""
        return ticks if self.untimed else round((ticks - self.start) * self.tick * self.rate)

    def before(self, number: int) -> int:
        """Return a time between the frame of this number and the one before."""
        return self.start + round((number - Fraction(1, 2)) / self.rate / self.tick)


@dataclass(frozen=True, slots=True)
class FrameMap:
    """Which frame of the master an export's frame is taken from: number × ratio + offset.

    jumps: (number, shift): from this frame of the export on, so many frames further on.
    """

    ratio: Fraction
    offset: int
    jumps: tuple[tuple[int, int], ...] = ()

    def plain(self, export_number: int) -> int:
        """Return the master's number of an export's frame, jumps apart."""
        return round(export_number * self.ratio) + self.offset

    def master(self, export_number: int) -> int:
        """Return the master's number of an export's frame."""
        at = bisect_right(self.jumps, (export_number, 1 << 40))
        return self.plain(export_number) + (self.jumps[at - 1][1] if at else 0)


def timeline(source: Source) -> Timeline:
    """Return how the frames of a file are numbered; raises UnreadableFileError."""
    opened = open_picture(source.path, threads=1)
    with opened.container:
        return _timeline(opened, source)


def _timeline(opened: Opened, source: Source) -> Timeline:
    start = opened.stream.start_time
    return Timeline(start or 0, opened.tick, source.reading.rate, untimed=start is None)


def plan_pair_spans(master: Source, export: Source, mapping: FrameMap) -> tuple[PairSpan, ...]:
    """Return spans that together hold every frame of both files once.

    One open span where a file keeps no index of key frames, or the export is short.
    """
    one, other = open_picture(master.path, threads=1), open_picture(export.path, threads=1)
    with one.container, other.container:
        if not (_has_index(one) and _has_index(other)):
            return (PairSpan(Span(None, None), Span(None, None)),)
        lines = _timeline(one, master), _timeline(other, export)
        cuts = _cuts(one, other, lines, mapping)
        tail = _tail(one, lines[0], mapping.master(export.reading.frame_count or 0))
    masters = [None, *(cut[0] for cut in cuts), *tail, None]
    exports = [None, *(cut[1] for cut in cuts), None]
    sides = (pairwise(masters), pairwise(exports))
    return tuple(
        PairSpan(Span(*there), Span(*here) if here else None) for there, here in zip_longest(*sides)
    )


def _has_index(opened: Opened) -> bool:
    return opened.container.format.name not in UNCUT and opened.stream.start_time is not None


def _tail(master: Opened, line: Timeline, end: int) -> list[int]:
    """Return where to cut a master that goes on long after frame `end`, the export's last."""
    return [cut for cut in cuts_of(master) if line.number(cut) > end + LEAST_SPAN_S * line.rate]


def _cuts(
    one: Opened, other: Opened, lines: tuple[Timeline, Timeline], mapping: FrameMap
) -> list[tuple[int, int]]:
    """Return rising moments to cut at, in ticks of the master and of the export."""
    keys, marks = key_times(other), key_times(one)
    if len(keys) < 2 or not marks:
        return []
    least = max(LEAST_SPAN_S / other.tick, Fraction(keys[-1] - keys[0], MOST_SPANS))
    cuts: list[tuple[int, int]] = []
    last = keys[0]
    while True:
        window = [key for key in keys if last + least <= key < last + least * WINDOW]
        window = window or [key for key in keys if key >= last + least][:1]
        if not window:
            return cuts
        chosen = min(window, key=lambda key: _waste(lines[1].number(key), lines[0], mapping, marks))
        shown = shown_at(other, chosen)
        last = chosen
        if shown is None or (cuts and shown <= cuts[-1][1]):
            continue
        there = lines[0].before(mapping.master(lines[1].number(shown)))
        if not cuts or there > cuts[-1][0]:
            cuts.append((there, shown))


def _waste(number: int, line: Timeline, mapping: FrameMap, keys: list[int]) -> int:
    """Return how far behind a key frame of the master a cut would lie, in the master's ticks."""
    ticks = line.before(mapping.master(number) + 1)
    at = bisect_right(keys, ticks)
    return ticks - keys[at - 1] if at else 0
