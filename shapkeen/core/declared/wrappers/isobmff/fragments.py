"""Movie fragments: totals and first samples of one track over all `moof` boxes.

Source: ISO/IEC 14496-12 8.8.
"""

from __future__ import annotations

from array import array
from collections.abc import Iterable
from dataclasses import dataclass, field

from ...layout import FieldError, Layout, fields
from ...window import ShortReadError
from .boxes import Box
from .layouts import TFHD, TREX, TRUN
from .samples import SamplePlace, SampleTotals, read_words

BASE_OFFSET, DESCRIPTION, DURATION, SIZE, SAMPLE_FLAGS = 0x1, 0x2, 0x8, 0x10, 0x20
RUN_OFFSET, FIRST_FLAGS = 0x1, 0x4
RUN_DURATION, RUN_SIZE, RUN_FLAGS, RUN_COMPOSITION = 0x100, 0x200, 0x400, 0x800
MAX_PLACES = 2
"""The first sample of the first fragments: enough for the coded headers."""


@dataclass(slots=True)
class _Sums:
    count: int = 0
    size_bytes: int = 0
    duration: int = 0
    deltas: set[int] = field(default_factory=set)
    places: list[SamplePlace] = field(default_factory=list)

    def add(self, run: _Run, offset: int) -> None:
        if run.count and len(self.places) < MAX_PLACES:
            self.places.append(SamplePlace(self.count, offset, run.first_size))
        self.count += run.count
        self.size_bytes += run.size_bytes
        self.duration += run.duration
        self.deltas |= run.deltas


@dataclass(frozen=True, slots=True)
class _Run:
    count: int
    size_bytes: int
    duration: int
    deltas: set[int]
    first_size: int
    data_offset: int | None


@dataclass(frozen=True, slots=True)
class _Defaults:
    duration: int
    size: int


def read_fragments(
    moofs: Iterable[Box], mvex: Box | None, track_id: int
) -> tuple[SampleTotals, list[SamplePlace]]:
    """Return one track's totals over all fragments, and where its first samples lie."""
    sums = _Sums()
    defaults = _track_defaults(mvex, track_id)
    for moof in moofs:
        for traf in moof.children():
            if traf.type == "traf":
                try:
                    _read_traf(traf, moof.start, track_id, defaults, sums)
                except (ShortReadError, FieldError):
                    continue
    delta = next(iter(sums.deltas)) if len(sums.deltas) == 1 else None
    totals = SampleTotals(
        count=sums.count, size_bytes=sums.size_bytes, duration=sums.duration, delta=delta
    )
    return totals, sums.places


def _track_defaults(mvex: Box | None, track_id: int) -> _Defaults:
    for box in mvex.children() if mvex else []:
        if box.type != "trex":
            continue
        try:
            trex = TREX.read(box.bytes(TREX.size_bytes))
        except (FieldError, ShortReadError):
            continue
        if trex["track_id"] == track_id:
            return _Defaults(trex["duration"], trex["size"])
    return _Defaults(0, 0)


def _read_traf(traf: Box, moof_start: int, track_id: int, defaults: _Defaults, sums: _Sums) -> None:
    boxes = traf.children()
    head = next((box for box in boxes if box.type == "tfhd"), None)
    if head is None:
        return
    data = head.bytes(64)
    tfhd = TFHD.read(data)
    if tfhd["track_id"] != track_id:
        return
    widths = {BASE_OFFSET: 64, DESCRIPTION: 32, DURATION: 32, SIZE: 32, SAMPLE_FLAGS: 32}
    names = {BASE_OFFSET: "base", DESCRIPTION: "desc", DURATION: "duration", SIZE: "size"}
    present = {names.get(bit, "flags"): w for bit, w in widths.items() if tfhd["flags"] & bit}
    optional = Layout("tfhd", fields(**present), source="ISO/IEC 14496-12 8.8.7")
    values = optional.read(data, TFHD.size_bytes)
    own = _Defaults(values.get("duration", defaults.duration), values.get("size", defaults.size))
    base = values.get("base", moof_start)
    for box in boxes:
        if box.type == "trun":
            run = _read_trun(box, own)
            sums.add(run, base + (run.data_offset or 0))


def _read_trun(box: Box, defaults: _Defaults) -> _Run:
    head = TRUN.read(box.bytes(TRUN.size_bytes))
    flags, count, offset = head["flags"], head["count"], TRUN.size_bytes
    data_offset = None
    if flags & RUN_OFFSET:
        data_offset = int.from_bytes(box.body.read(offset, 4), "big", signed=True)
        offset += 4
    if flags & FIRST_FLAGS:
        offset += 4
    columns = [bit for bit in (RUN_DURATION, RUN_SIZE, RUN_FLAGS, RUN_COMPOSITION) if flags & bit]
    if columns:
        count = min(count, (box.body.size - offset) // (4 * len(columns)))
    words = read_words(box.body, offset, count * len(columns))

    def column(bit: int) -> array[int] | None:
        return words[columns.index(bit) :: len(columns)] if bit in columns else None

    durations, sizes = column(RUN_DURATION), column(RUN_SIZE)
    return _Run(
        count=count,
        size_bytes=sum(sizes) if sizes is not None else defaults.size * count,
        duration=sum(durations) if durations is not None else defaults.duration * count,
        deltas=set(durations) if durations is not None else {defaults.duration},
        first_size=sizes[0] if sizes else defaults.size,
        data_offset=data_offset,
    )
