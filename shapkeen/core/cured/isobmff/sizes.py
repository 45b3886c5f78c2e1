"""Sizes in an index made those of the copy: of samples, runs, media data and indexed segments.

All follow from where the bytes of the original lie in the copy. Source: ISO/IEC 14496-12 8.1.1,
8.7.3, 8.8.8, 8.16.3.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ...declared.window import Window
from ...declared.wrappers.isobmff.boxes import Box
from ..copying import Patch, Patches
from .places import BASE_OFFSET, COLUMNS, FIRST_FLAGS, RUN_OFFSET, SIZE, Samples
from .track import replaced
from .tree import Node, OddBoxError

STBL = ("mdia", "minf", "stbl")
SIZES_HEAD = 12
MOST_32 = 0xFFFFFFFF
SMALL_HEAD, LARGE_HEAD = 8, 16


def with_sizes(trak: Node, samples: Samples, patches: Patches) -> Node:
    """Return a track whose table gives its samples' sizes in the copy.

    samples: the ones of the table, in its order. Raises OddBoxError for a compact table.
    """
    places, sizes = samples
    made = patches.moved_all(places + sizes) - patches.moved_all(places)
    if np.array_equal(made, sizes):
        return trak
    stbl = trak.first(*STBL)
    table = stbl.first("stsz") if stbl else None
    if stbl is None or table is None:
        raise OddBoxError("a compact table of sizes (stz2)")
    count = int.from_bytes(table.head[8:12], "big")
    body = table.head[:4] + bytes(4) + table.head[8:SIZES_HEAD]
    body += made[:count].astype(">u4").tobytes()
    return replaced(trak, STBL, stbl.with_child(replace(table, head=body), instead=table))


def with_run_sizes(moof: Node, start: int, picture: int, patches: Patches) -> Node:
    """Return a fragment whose runs give sizes and places in the copy.

    picture: number of the picture's track. Raises OddBoxError where sizes have no column.
    """
    children = (
        _track_fragment(child, start, picture, patches) if child.name == "traf" else child
        for child in moof.children or ()
    )
    return replace(moof, children=tuple(children))


def _track_fragment(traf: Node, start: int, picture: int, patches: Patches) -> Node:
    head = traf.first("tfhd")
    if head is None:
        return traf
    based = int.from_bytes(head.head[1:4], "big") & BASE_OFFSET
    base = int.from_bytes(head.head[8:16], "big") if based else start
    own = int.from_bytes(head.head[4:8], "big") == picture
    children, end = [], base
    for child in traf.children or ():
        made = child
        if child.name == "trun":
            made, end = _run(child, base, end, patches, own=own)
        children.append(made)
    return replace(traf, children=tuple(children))


def _run(trun: Node, base: int, end: int, patches: Patches, *, own: bool) -> tuple[Node, int]:
    """Return a run as it is in the copy, and where the original's samples end."""
    flags, at, head = int.from_bytes(trun.head[1:4], "big"), 8, trun.head
    count, place = int.from_bytes(head[4:8], "big"), end
    if flags & RUN_OFFSET:
        place = base + int.from_bytes(head[at : at + 4], "big", signed=True)
        moved = patches.moved(place) - patches.moved(base)
        head = head[:at] + moved.to_bytes(4, "big", signed=True) + head[at + 4 :]
        at += 4
    at += 4 if flags & FIRST_FLAGS else 0
    columns = [bit for bit in COLUMNS if flags & bit]
    if not flags & SIZE:
        if own and any(True for _ in patches):
            raise OddBoxError("a run whose samples have no sizes of their own")
        return replace(trun, head=head), place
    table = np.frombuffer(head[at : at + 4 * count * len(columns)], ">u4").reshape(count, -1)
    table = table.astype(np.int64)
    sizes = table[:, columns.index(SIZE)].copy()
    ends = place + np.cumsum(sizes)
    if own:
        table[:, columns.index(SIZE)] = patches.moved_all(ends) - patches.moved_all(ends - sizes)
    body = table.astype(">u4").tobytes()
    head = head[:at] + body + head[at + len(body) :]
    return replace(trun, head=head), int(ends[-1]) if count else place


def media_headers(window: Window, mdats: tuple[Box, ...], patches: Patches) -> Iterator[Patch]:
    """Yield patches of the headers of media data that grew."""
    for box in mdats:
        head = window.read(box.start, SMALL_HEAD)
        told = int.from_bytes(head[:4], "big")
        begin = box.start + (LARGE_HEAD if told == 1 else SMALL_HEAD)
        inside = patches.moved(box.claimed_end) - patches.moved(begin)
        if inside == box.claimed_end - begin or not told:  # 0: to the end of the file
            continue
        if told == 1:
            yield Patch(box.start + 8, 8, (inside + LARGE_HEAD).to_bytes(8, "big"))
        elif inside + SMALL_HEAD <= MOST_32:
            yield Patch(box.start, 4, (inside + SMALL_HEAD).to_bytes(4, "big"))
        else:
            size = (inside + LARGE_HEAD).to_bytes(8, "big")
            yield Patch(box.start, SMALL_HEAD, (1).to_bytes(4, "big") + head[4:8] + size)


def with_segment_sizes(sidx: bytes, end: int, patches: Patches) -> bytes:
    """Return an index of segments (its body) with their sizes in the copy.

    end: where the box ends in the original, from which its places count.
    """
    wide = 8 if sidx[0] else 4
    at = 12 + wide
    first = int.from_bytes(sidx[at : at + wide], "big")
    place = end + first
    moved = patches.moved(place) - patches.moved(end)
    parts = [sidx[:at], moved.to_bytes(wide, "big"), sidx[at + wide : at + wide + 4]]
    count, at = int.from_bytes(sidx[at + wide + 2 : at + wide + 4], "big"), at + wide + 4
    for _ in range(count):
        word = int.from_bytes(sidx[at : at + 4], "big")
        size = word & 0x7FFFFFFF
        grown = patches.moved(place + size) - patches.moved(place)
        parts.append((word & 0x80000000 | grown).to_bytes(4, "big") + sidx[at + 4 : at + 12])
        place, at = place + size, at + 12
    return b"".join([*parts, sidx[at:]])
