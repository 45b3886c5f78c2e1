"""Where a track's samples lie, by its tables and by fragments.

Source: ISO/IEC 14496-12 8.7, 8.8.
"""

from collections.abc import Iterator, Sequence
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

from .tree import Node

Numbers: TypeAlias = npt.NDArray[np.int64]
Samples: TypeAlias = tuple[Numbers, Numbers]
"""Absolute places and sizes, in decoding order."""
Fragments: TypeAlias = Sequence[tuple[int, Node]]
"""Where each `moof` begins, and what it holds."""
RUN_OFFSET, FIRST_FLAGS, SIZE = 0x1, 0x4, 0x200
COLUMNS = (0x100, SIZE, 0x400, 0x800)
OPTIONAL = {0x1: 8, 0x2: 4, 0x8: 4, 0x10: 4, 0x20: 4}
DEFAULT_SIZE, BASE_OFFSET = 0x10, 0x1


def samples_of(moov: Node, trak: Node, moofs: Fragments) -> Samples:
    """Return where all samples of a track lie, first by its tables, then by fragments."""
    number = track_number(trak)
    places, sizes = table_samples(trak)
    more = list(_fragment_samples(moofs, number, _defaults(moov).get(number, 0)))
    if more:
        places = np.concatenate([places, *(place for place, _ in more)])
        sizes = np.concatenate([sizes, *(size for _, size in more)])
    return places, sizes


def track_number(trak: Node) -> int:
    """Return a track's own number; 0 without a header."""
    tkhd = trak.first("tkhd")
    if tkhd is None or not tkhd.head:
        return 0
    at = 20 if tkhd.head[0] == 1 else 12
    return int.from_bytes(tkhd.head[at : at + 4], "big")


def _words(node: Node | None, at: int, count: int, width: int = 4) -> Numbers:
    head = node.head if node else b""
    return np.frombuffer(head[at : at + count * width], f">u{width}").astype(np.int64)


def _count(node: Node | None, at: int = 4) -> int:
    return int.from_bytes(node.head[at : at + 4], "big") if node else 0


def table_samples(trak: Node) -> Samples:
    """Return places and sizes of a track's samples by its tables."""
    empty = np.zeros(0, np.int64)
    stbl = trak.first("mdia", "minf", "stbl")
    stsz, stsc = (stbl.first(name) if stbl else None for name in ("stsz", "stsc"))
    if stbl is None or stsz is None or stsc is None:
        return empty, empty
    wide = stbl.first("co64")
    table = wide or stbl.first("stco")
    chunks = _words(table, 8, _count(table), 8 if wide else 4)
    count, fixed = _count(stsz, 8), _count(stsz, 4)
    sizes = np.full(count, fixed, np.int64) if fixed else _words(stsz, 12, count)
    runs = _words(stsc, 8, 3 * _count(stsc)).reshape(-1, 3)
    if not len(chunks) or not len(runs):
        return empty, empty
    spans = np.diff(np.append(runs[:, 0] - 1, len(chunks)))
    each = np.repeat(runs[:, 1], np.maximum(spans, 0))[: len(chunks)]
    chunk = np.repeat(np.arange(len(each)), each)[: len(sizes)]
    sizes = sizes[: len(chunk)]
    before = np.cumsum(sizes) - sizes
    firsts = np.cumsum(each) - each
    starts = before[np.minimum(firsts, max(len(before) - 1, 0))] if len(before) else before
    return chunks[chunk] + before - starts[chunk], sizes


def _defaults(moov: Node) -> dict[int, int]:
    """Return the size of samples that fragments do not give, by track number."""
    mvex = moov.first("mvex")
    found = {}
    if mvex is not None:
        at = 0
        while at + 32 <= len(mvex.head):
            size = int.from_bytes(mvex.head[at : at + 4], "big")
            if mvex.head[at + 4 : at + 8] == b"trex":
                body = mvex.head[at + 8 : at + size]
                found[int.from_bytes(body[4:8], "big")] = int.from_bytes(body[16:20], "big")
            at += max(size, 8)
    return found


def _fragment_samples(moofs: Fragments, number: int, usual: int) -> Iterator[Samples]:
    for start, moof in moofs:
        for traf in moof.all("traf"):
            tfhd = traf.first("tfhd")
            if tfhd is not None and int.from_bytes(tfhd.head[4:8], "big") == number:
                yield from _runs(traf, tfhd.head, start, usual)


def _runs(traf: Node, head: bytes, start: int, usual: int) -> Iterator[Samples]:
    flags, at, base = int.from_bytes(head[1:4], "big"), 8, start
    for bit, width in OPTIONAL.items():
        if not flags & bit:
            continue
        value = int.from_bytes(head[at : at + width], "big")
        base = value if bit == BASE_OFFSET else base
        usual = value if bit == DEFAULT_SIZE else usual
        at += width
    end = base
    for trun in traf.all("trun"):
        flags, count, at = int.from_bytes(trun.head[1:4], "big"), _count(trun), 8
        place = end
        if flags & RUN_OFFSET:
            place = base + int.from_bytes(trun.head[at : at + 4], "big", signed=True)
            at += 4
        at += 4 if flags & FIRST_FLAGS else 0
        columns = [bit for bit in COLUMNS if flags & bit]
        count = min(count, (len(trun.head) - at) // (4 * len(columns))) if columns else count
        table = _words(trun, at, count * len(columns)).reshape(count, -1) if columns else None
        sizes = (
            table[:, columns.index(SIZE)]
            if table is not None and SIZE in columns
            else np.full(count, usual, np.int64)
        )
        yield place + np.cumsum(sizes) - sizes, sizes
        end = place + int(sizes.sum())
