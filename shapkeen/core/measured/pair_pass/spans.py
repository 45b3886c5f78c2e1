"""Cutting both files of a pair at one moment each, so that a span of both is decoded once.

A cut lies at a key frame of the export, and where the choice is free, close behind a key frame of
the master: what lies between is decoded for nothing.
"""

from bisect import bisect_right
from contextlib import suppress
from fractions import Fraction
from itertools import pairwise, zip_longest
from typing import NamedTuple

import av

from ..alignment.time.frame_map import FrameMap, Timeline, timeline_of
from ..decoded.frames import Opened, open_picture
from ..model import Source
from ..spans.cutting import (
    LEAST_SPAN_S,
    MOST_SPANS,
    UNCUT,
    Span,
    cuts_of,
    entered,
    key_times,
    shown_at,
)

WINDOW = 2
"""A cut is looked for within so many times the least length of a span."""


class PairSpan(NamedTuple):
    """A part of both files; None where the export has ended."""

    master: Span
    export: Span | None


def plan_pair_spans(master: Source, export: Source, mapping: FrameMap) -> tuple[PairSpan, ...]:
    """Return spans that together hold every frame of both files once.

    One open span where a file keeps no index of key frames, or the export is short.
    """
    opened_master, opened_export = (
        open_picture(master.path, threads=1),
        open_picture(export.path, threads=1),
    )
    with opened_master.container, opened_export.container:
        if not (_has_index(opened_master) and _has_index(opened_export)):
            return (PairSpan(Span(None, None), Span(None, None)),)
        lines = timeline_of(opened_master, master), timeline_of(opened_export, export)
        cuts = _cuts(opened_master, opened_export, lines, mapping)
        tail = _tail(opened_master, lines[0], mapping.master(export.reading.frame_count or 0))
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
    opened_master: Opened,
    opened_export: Opened,
    lines: tuple[Timeline, Timeline],
    mapping: FrameMap,
) -> list[tuple[int, int]]:
    """Return rising moments to cut at, in ticks of the master and of the export."""
    keys, master_keys = key_times(opened_export), key_times(opened_master)
    if len(keys) < 2 or not master_keys:
        return []
    least = max(LEAST_SPAN_S / opened_export.tick, Fraction(keys[-1] - keys[0], MOST_SPANS))
    cuts: list[tuple[int, int]] = []
    last = keys[0]
    while True:
        window = [key for key in keys if last + least <= key < last + least * WINDOW]
        window = window or [key for key in keys if key >= last + least][:1]
        if not window:
            return cuts
        chosen = min(
            window, key=lambda key: _waste(lines[1].number(key), lines[0], mapping, master_keys)
        )
        shown = shown_at(opened_export, chosen)
        last = chosen
        if shown is None or (cuts and shown <= cuts[-1][1]):
            continue
        first = mapping.master(lines[1].number(shown))
        there = _start_of(first, opened_master, lines[0])
        if not cuts or there > cuts[-1][0]:
            cuts.append((there, shown))


def _start_of(number: int, master: Opened, line: Timeline) -> int:
    """Return a time of the master before frame `number` and behind the one before it.

    That of the frame itself, where it is a key frame: from half a frame before, a whole group of
    pictures would be decoded for nothing.
    """
    with suppress(av.FFmpegError, OSError):
        packet = entered(master, line.before(number + 1))
        if packet and packet.pts is not None and line.number(packet.pts) == number:
            return packet.pts
    return line.before(number)


def _waste(number: int, line: Timeline, mapping: FrameMap, keys: list[int]) -> int:
    """Return how far behind a key frame of the master a cut would lie, in the master's ticks."""
    ticks = line.before(mapping.master(number) + 1)
    at = bisect_right(keys, ticks)
    return ticks - keys[at - 1] if at else 0
