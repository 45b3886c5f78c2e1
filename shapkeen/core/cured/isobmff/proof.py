"""Whether a copy holds every sample of every track where it was: read anew from both files.

Independent of how the copy was made: both indexes are read by themselves, and samples are held
against each other byte for byte. Source: ISO/IEC 14496-12 8.7, 8.8.
"""

from dataclasses import dataclass

import numpy as np

from ...declared.window import Window
from ...declared.wrappers.isobmff.boxes import MAX_TOP_BOXES, Box, walk
from ...declared.wrappers.isobmff.reader import picture_track
from ..headers.frame_headers import FRAME_HEADERS, FrameHeader
from ..model import Proof
from .places import BASE_OFFSET, Samples, samples_of
from .spherical_v1 import is_v1
from .tree import Node, read_node

MAY_DIFFER = frozenset(
    {"stco", "co64", "tkhd", "colr", "pasp", "clap", "fiel", "mdcv", "clli", "SmDm"}
    | {"CoLL", "st3d", "sv3d", "vexu", "vpcC", "av1C", "avcC", "hvcC"}
)
"""What a cure may change in an index; all other boxes must be the same bytes in the same order."""
BLOCK = 16 << 20


@dataclass(frozen=True, slots=True)
class _Held:
    """One file's samples: places and sizes by track, in file order of the tracks."""

    window: Window
    moov: Node
    tracks: tuple[Samples, ...]
    moofs: tuple[Node, ...]
    picture: int


def prove(original: Window, copy: Window, codec: str) -> Proof:
    """Return the proof that a copy's samples and times are the original's, headers apart.

    codec: of the picture, whose frames' own headers may say other words.
    Raises OddBoxError where an index cannot be read.
    """
    one, other = _held(original), _held(copy)
    pictures = len(one.tracks[one.picture][0])
    header = FRAME_HEADERS.get(codec)
    heads = [header.size if header and i == one.picture else 0 for i in range(len(one.tracks))]
    same = (
        len(one.tracks) == len(other.tracks)
        and _same_but(one.moov, other.moov)
        and _same_fragments(one.moofs, other.moofs)
        and all(
            _same_samples(one.window, _behind(here, head), other.window, _behind(there, head))
            for here, there, head in zip(one.tracks, other.tracks, heads, strict=True)
        )
        and _same_heads(one, other, header)
    )
    return Proof(pictures, same)


def _behind(samples: Samples, head: int) -> Samples:
    """Return what follows the first bytes of each sample."""
    places, sizes = samples
    step = np.minimum(sizes, head)
    return places + step, sizes - step


def _same_heads(one: _Held, other: _Held, header: FrameHeader | None) -> bool:
    """Return whether frames' headers differ in nothing but the words that may be changed."""
    if header is None:
        return True
    silent = dict.fromkeys(header.traits)
    return all(
        header.said(one.window.read(here, header.size), silent)
        == header.said(other.window.read(there, header.size), silent)
        for here, there, size in zip(
            one.tracks[one.picture][0].tolist(),
            other.tracks[other.picture][0].tolist(),
            one.tracks[one.picture][1].tolist(),
            strict=True,
        )
        if size >= header.size
    )


def _held(window: Window) -> _Held:
    boxes = [box for box in walk(window, "", 0, MAX_TOP_BOXES) if box.type in ("moov", "moof")]
    index = next(box for box in boxes if box.type == "moov")
    moov = read_node(_bytes(window, index))
    moofs = [(box.start, read_node(_bytes(window, box))) for box in boxes if box.type == "moof"]
    tracks = tuple(samples_of(moov, trak, moofs) for trak in moov.all("trak"))
    path = picture_track(index).box.path
    picture = int(path.rpartition("[")[2].rstrip("]"))
    return _Held(window, moov, tracks, tuple(moof for _, moof in moofs), picture)


def _bytes(window: Window, box: Box) -> bytes:
    window.source.seek(box.start)
    return window.source.read(box.claimed_end - box.start)


def _same_but(one: Node, other: Node) -> bool:
    """Return whether two indexes are alike, but for boxes that a cure may change."""
    if one.type != other.type or one.head != other.head or one.tail != other.tail:
        return False
    children = [
        [child for child in node.children or () if not _may_differ(child)] for node in (one, other)
    ]
    if len(children[0]) != len(children[1]):
        return False
    return all(_same_but(a, b) for a, b in zip(*children, strict=True))


def _may_differ(box: Node) -> bool:
    return is_v1(box) if box.name == "uuid" else box.name in MAY_DIFFER


def _same_fragments(one: tuple[Node, ...], other: tuple[Node, ...]) -> bool:
    """Return whether fragments say the same, absolute places apart."""
    if len(one) != len(other):
        return False
    return all(_placeless(a) == _placeless(b) for a, b in zip(one, other, strict=True))


def _placeless(moof: Node) -> list[bytes]:
    parts = []
    for child in moof.children or ():
        if child.name != "traf":
            parts.append(bytes(child))
            continue
        for box in child.children or ():
            based = box.name == "tfhd" and int.from_bytes(box.head[1:4], "big") & BASE_OFFSET
            parts.append(box.head[:8] + box.head[16:] if based else bytes(box))
    return parts


def _same_samples(window: Window, one: Samples, copy: Window, other: Samples) -> bool:
    """Return whether all samples are the same bytes; neighbours are read as one stretch."""
    (here, sizes), (there, others) = one, other
    if not np.array_equal(sizes, others):
        return False
    if not len(here):
        return True
    joined = (here[:-1] + sizes[:-1] == here[1:]) & (there[:-1] + sizes[:-1] == there[1:])
    begins = np.flatnonzero(np.append(True, ~joined))
    ends = np.append(begins[1:], len(here))
    return all(
        _same_stretch(
            window, int(here[a]), copy, int(there[a]), int(here[b - 1] + sizes[b - 1] - here[a])
        )
        for a, b in zip(begins, ends, strict=True)
    )


def _same_stretch(one: Window, here: int, other: Window, there: int, size: int) -> bool:
    while size > 0:
        part = min(size, BLOCK)
        one.source.seek(here)
        other.source.seek(there)
        given, came = one.source.read(part), other.source.read(part)
        if len(given) != part or given != came:
            return False
        here, there, size = here + part, there + part, size - part
    return True
