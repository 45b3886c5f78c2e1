"""Where chunks and fragments lie: every absolute place in an index moved along with its bytes.

Source: ISO/IEC 14496-12 8.7.5 (stco, co64), 8.8.7 (tfhd), 8.8.10 (tfra).
"""

from collections.abc import Callable
from dataclasses import replace
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

from .track import replaced
from .tree import Node

Places: TypeAlias = npt.NDArray[np.int64]
Move: TypeAlias = Callable[[Places], Places]
"""Where bytes of the original lie in the copy."""
TABLE_HEAD = 8
MOST_32 = 0xFFFFFFFF
BASE_OFFSET = 0x1


def with_moved_chunks(moov: Node, move: Move) -> Node:
    """Return an index whose chunk tables follow; 64 bits wide where 32 are no longer enough."""
    children = (
        _moved_track(child, move) if child.name == "trak" else child
        for child in moov.children or ()
    )
    return replace(moov, children=tuple(children))


def _moved_track(trak: Node, move: Move) -> Node:
    stbl = trak.first("mdia", "minf", "stbl")
    if stbl is None:
        return trak
    table = stbl.first("stco") or stbl.first("co64")
    if table is None:
        return trak
    width = "u4" if table.name == "stco" else "u8"
    count = int.from_bytes(table.head[4:8], "big")
    size = count * int(width[1])
    given = np.frombuffer(table.head[TABLE_HEAD : TABLE_HEAD + size], f">{width}").astype(np.int64)
    came = move(given)
    if np.array_equal(given, came):
        return trak
    wide = table.name == "co64" or bool((came > MOST_32).any())
    body = came.astype(">u8" if wide else ">u4").tobytes()
    made = Node(b"co64" if wide else b"stco", table.head[:TABLE_HEAD] + body)
    return replaced(trak, ("mdia", "minf", "stbl"), stbl.with_child(made, instead=table))


def moved_fragment(moof: Node, move: Move) -> Node:
    """Return a fragment whose absolute base offsets follow; most have none."""
    children = (
        _moved_track_fragment(child, move) if child.name == "traf" else child
        for child in moof.children or ()
    )
    return replace(moof, children=tuple(children))


def _moved_track_fragment(traf: Node, move: Move) -> Node:
    head = traf.first("tfhd")
    if head is None or not int.from_bytes(head.head[1:4], "big") & BASE_OFFSET:
        return traf
    place = np.array([int.from_bytes(head.head[8:16], "big")], np.int64)
    body = head.head[:8] + int(move(place)[0]).to_bytes(8, "big") + head.head[16:]
    return traf.with_child(replace(head, head=body), instead=head)


def moved_fragment_index(mfra: Node, move: Move) -> Node:
    """Return the index of fragments whose places follow."""
    children = (
        _moved_entries(child, move) if child.name == "tfra" else child
        for child in mfra.children or ()
    )
    return replace(mfra, children=tuple(children))


def _moved_entries(tfra: Node, move: Move) -> Node:
    head = tfra.head
    wide = head[0] == 1
    sizes = int.from_bytes(head[8:12], "big")
    lengths = [(sizes >> shift & 3) + 1 for shift in (4, 2, 0)]
    count, at = int.from_bytes(head[12:16], "big"), 16
    place = 8 if wide else 4
    parts = [head[:16]]
    for _ in range(count):
        if at + 2 * place + sum(lengths) > len(head):
            break
        here = int.from_bytes(head[at + place : at + 2 * place], "big")
        there = int(move(np.array([here], np.int64))[0])
        parts.append(head[at : at + place] + there.to_bytes(place, "big"))
        parts.append(head[at + 2 * place : at + 2 * place + sum(lengths)])
        at += 2 * place + sum(lengths)
    return replace(tfra, head=b"".join([*parts, head[at:]]))
