"""Sample tables: how many pictures, how long, how heavy, and where the first ones lie.

Sources: ISO/IEC 14496-12 8.6 and 8.7. Tables are read whole into compact arrays, never
entry by entry into objects.
"""

from __future__ import annotations

import sys
from array import array
from dataclasses import dataclass
from operator import mul

from ...window import ShortReadError, Window
from .boxes import Box
from .layouts import STSZ, TABLE


@dataclass(frozen=True, slots=True)
class SamplePlace:
    """Where one sample lies: number from 0, absolute offset, size in bytes."""

    number: int
    offset: int
    size: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SampleTotals:
    """Sums over a track. `duration` and `delta` in its time scale; delta None = not constant."""

    count: int = 0
    size_bytes: int = 0
    duration: int = 0
    delta: int | None = None


def read_words(body: Window, offset: int, count: int, *, width: int = 4) -> array[int]:
    """Return big-endian integers; as many as there are, if the table is cut short."""
    count = max(min(count, (body.size - offset) // width), 0)
    words = array("I" if width == 4 else "Q")
    words.frombytes(body.read(offset, count * width))
    if sys.byteorder == "little":
        words.byteswap()
    return words


def _table(box: Box | None, columns: int) -> array[int]:
    if box is None:
        return array("I")
    try:
        count = TABLE.read(box.bytes(TABLE.size_bytes))["count"]
        return read_words(box.body, TABLE.size_bytes, count * columns)
    except ShortReadError:
        return array("I")


def read_totals(stbl: dict[str, Box]) -> SampleTotals:
    """Return count, bytes and duration from stts and stsz."""
    runs = _table(stbl.get("stts"), 2)
    counts, deltas = runs[0::2], runs[1::2]
    stated = set(deltas)
    if len(deltas) > 1 and counts[-1] == 1:
        stated = set(deltas[:-1])  # writers trim the last picture to the track's end
    count, size = _sizes_total(stbl.get("stsz"))
    return SampleTotals(
        count=count or sum(counts),
        size_bytes=size,
        duration=sum(map(mul, counts, deltas)),
        delta=stated.pop() if len(stated) == 1 else None,
    )


def _sizes_total(stsz: Box | None) -> tuple[int, int]:
    if stsz is None:
        return 0, 0
    try:
        head = STSZ.read(stsz.bytes(STSZ.size_bytes))
        if head["sample_size"]:
            return head["count"], head["count"] * head["sample_size"]
        sizes = read_words(stsz.body, STSZ.size_bytes, head["count"])
    except ShortReadError:
        return 0, 0
    return len(sizes), sum(sizes)


def sync_samples(stbl: dict[str, Box], most: int) -> list[int]:
    """Return the first random-access samples' numbers, from 0; all samples where no table is."""
    if "stss" not in stbl:
        return list(range(most))
    return [number - 1 for number in _table(stbl["stss"], 1)[:most] if number > 0]


def locate(stbl: dict[str, Box], wanted: list[int]) -> list[SamplePlace]:
    """Return where the wanted samples lie; those that the tables cannot place are left out."""
    offsets = _chunk_offsets(stbl)
    runs = _table(stbl.get("stsc"), 3)
    stsz = stbl.get("stsz")
    if not offsets or not runs or stsz is None or not wanted:
        return []
    try:
        head = STSZ.read(stsz.bytes(STSZ.size_bytes))
        last = max(wanted)
        sizes = array("I")
        if not head["sample_size"]:
            sizes = read_words(stsz.body, STSZ.size_bytes, min(last + 1, head["count"]))
    except ShortReadError:
        return []
    places = []
    for number in wanted:
        chunk, first = _chunk_of(number, runs, len(offsets))
        size = head["sample_size"]
        known = head["count"] if size else len(sizes)  # damaged tables hold fewer than they say
        if chunk is None or number >= known:
            continue
        before = size * (number - first) if size else sum(sizes[first:number])
        places.append(SamplePlace(number, offsets[chunk] + before, size or sizes[number]))
    return places


def _chunk_offsets(stbl: dict[str, Box]) -> array[int]:
    if "stco" in stbl:
        return _table(stbl["stco"], 1)
    box = stbl.get("co64")
    if box is None:
        return array("Q")
    try:
        count = TABLE.read(box.bytes(TABLE.size_bytes))["count"]
        return read_words(box.body, TABLE.size_bytes, count, width=8)
    except ShortReadError:
        return array("Q")


def _chunk_of(number: int, runs: array[int], chunk_count: int) -> tuple[int | None, int]:
    """Return the sample's chunk (from 0) and that chunk's first sample, or None."""
    first_sample = 0
    for i in range(0, len(runs) - 2, 3):
        first_chunk, per_chunk = runs[i] - 1, runs[i + 1]
        next_chunk = runs[i + 3] - 1 if i + 3 < len(runs) else chunk_count
        span = (next_chunk - first_chunk) * per_chunk
        if per_chunk == 0 or span < 0:
            return None, 0
        if number < first_sample + span:
            within = (number - first_sample) // per_chunk
            return first_chunk + within, first_sample + within * per_chunk
        first_sample += span
    return None, 0
