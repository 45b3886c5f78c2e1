"""Whether a copy holds every sample of every track where it was: read anew from both files.

Independent of how the copy was made: both indexes are read by themselves, and samples are held
against each other byte for byte. Source: ISO/IEC 14496-12 8.7, 8.8.
"""

from dataclasses import dataclass
from hashlib import blake2b

import numpy as np

from ...declared.window import Window
from ...declared.wrappers.isobmff.boxes import MAX_TOP_BOXES, Box, walk
from ...declared.wrappers.isobmff.reader import picture_track
from ..headers import obu
from ..headers.configuration import length_bytes
from ..headers.frame_headers import FRAME_HEADERS, FrameHeader, said_in_configuration
from ..headers.units import is_header, units_in, unwritten
from ..model import Proof
from .entry import RECORDS
from .places import BASE_OFFSET, COLUMNS, FIRST_FLAGS, RUN_OFFSET, SIZE, Samples, samples_of
from .spherical_v1 import is_v1
from .track import MATRIX_AT, entries_of
from .tree import Node, read_node

MAY_DIFFER = frozenset(
    {"stco", "co64", "tkhd", "colr", "pasp", "clap", "fiel", "mdcv", "clli", "SmDm"}
    | {"CoLL", "st3d", "sv3d", "vexu", "vpcC", "av1C", "avcC", "hvcC"}
)
"""What a cure may change in an index; all other boxes must be the same bytes in the same order."""
BLOCK = 16 << 20
AV1 = "av1"


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
    number, length = one.picture, _length_bytes(one, codec)
    pictures = len(one.tracks[number][0])
    sized = bool(length) or codec == AV1
    header = FRAME_HEADERS.get(codec)
    heads = [header.size if header and i == one.picture else 0 for i in range(len(one.tracks))]
    same = (
        len(one.tracks) == len(other.tracks)
        and _same_but(one.moov, other.moov, sized=sized)
        and _kept_words(one, codec) == _kept_words(other, codec)
        and _same_fragments(one.moofs, other.moofs, sized=sized)
        and all(
            _same_units(one, other, length, codec)
            if (length or codec == AV1) and i == number
            else _same_samples(one.window, _behind(here, head), other.window, _behind(there, head))
            for i, (here, there, head) in enumerate(
                zip(one.tracks, other.tracks, heads, strict=True)
            )
        )
        and _same_heads(one, other, header)
    )
    return Proof(pictures, same)


def _kept_words(held: _Held, codec: str) -> list[bytes]:
    """Return what boxes that a cure rewrites must still hold: headers up to their matrix, and of
    configuration records all but sequence parameter sets and messages."""
    headers = [trak.first("tkhd") for trak in held.moov.all("trak")]
    words = [box.head[: MATRIX_AT.get(box.head[0], 0)] for box in headers if box and box.head]
    for entry in entries_of(held.moov.all("trak")[held.picture]):
        record = entry.first(RECORDS.get(codec, ""))
        words += [unwritten(record.head, codec)] if record is not None else []
        esds = entry.first("esds")
        words += [said_in_configuration(esds.head, codec)] if esds is not None else []
    return words


def _length_bytes(held: _Held, codec: str) -> int:
    """Return how many bytes give a unit's length in the picture's samples; 0 without units."""
    entries = entries_of(held.moov.all("trak")[held.picture])
    record = entries[0].first(RECORDS.get(codec, "")) if entries else None
    return length_bytes(record.head, codec) if record is not None else 0


def _same_units(one: _Held, other: _Held, length: int, codec: str) -> bool:
    """Return whether all coded slices are the same: of each sample, all but sets and messages."""
    here, there = one.tracks[one.picture], other.tracks[other.picture]
    if np.array_equal(here[1], there[1]) and _same_samples(one.window, here, other.window, there):
        return True
    if len(here[0]) != len(there[0]):
        return False
    return all(
        _slices(one.window, a, size, length, codec) == _slices(other.window, b, more, length, codec)
        for a, size, b, more in zip(*(column.tolist() for column in (*here, *there)), strict=True)
    )


def _slices(window: Window, place: int, size: int, length: int, codec: str) -> list[bytes]:
    """Return digests of a sample's units but sets and messages, and what is left behind them."""
    if codec == AV1:
        return [
            blake2b(window.read(unit.at, unit.end - unit.at)).digest()
            for unit in obu.units_in(window, place, size)
            if unit.type not in obu.HEADERS
        ]
    units = list(units_in(window, place, size, length, codec))
    end = units[-1].body + units[-1].size if units else place
    kept = [unit for unit in units if not is_header(unit.type, codec)]
    parts = [blake2b(window.read(unit.body, unit.size)).digest() for unit in kept]
    return [*parts, window.read(end, place + size - end)]


def _behind(samples: Samples, head: int) -> Samples:
    """Return what follows the first bytes of each sample."""
    places, sizes = samples
    step = np.minimum(sizes, head)
    return places + step, sizes - step


def _same_heads(one: _Held, other: _Held, header: FrameHeader | None) -> bool:
    """Return whether frames' headers differ in nothing but the words that may be changed."""
    if header is None:
        return True
    return all(
        header.said(one.window.read(here, header.size), header.levelled)
        == header.said(other.window.read(there, header.size), header.levelled)
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


def _same_but(one: Node, other: Node, *, sized: bool) -> bool:
    """Return whether two indexes are alike, but for boxes that a cure may change.

    sized: whether samples' sizes may differ too, which the units in them then prove.
    """
    if sized and one.name == other.name == "stsz":
        return one.head[8:12] == other.head[8:12]
    if one.type != other.type or one.head != other.head or one.tail != other.tail:
        return False
    children = [
        [child for child in node.children or () if not _may_differ(child)] for node in (one, other)
    ]
    if len(children[0]) != len(children[1]):
        return False
    return all(_same_but(a, b, sized=sized) for a, b in zip(*children, strict=True))


def _may_differ(box: Node) -> bool:
    return is_v1(box) if box.name == "uuid" else box.name in MAY_DIFFER


def _same_fragments(one: tuple[Node, ...], other: tuple[Node, ...], *, sized: bool) -> bool:
    """Return whether fragments say the same, places (and sizes, where these may differ) apart."""
    if len(one) != len(other):
        return False
    return all(
        _placeless(a, sized=sized) == _placeless(b, sized=sized)
        for a, b in zip(one, other, strict=True)
    )


def _placeless(moof: Node, *, sized: bool) -> list[bytes]:
    parts = []
    for child in moof.children or ():
        if child.name != "traf":
            parts.append(bytes(child))
            continue
        for box in child.children or ():
            if box.name == "trun":
                parts.append(_timing(box.head, sized=sized))
                continue
            based = box.name == "tfhd" and int.from_bytes(box.head[1:4], "big") & BASE_OFFSET
            parts.append(box.head[:8] + box.head[16:] if based else bytes(box))
    return parts


def _timing(trun: bytes, *, sized: bool) -> bytes:
    """Return a run without its place, and without its sizes where these may differ."""
    flags, at = int.from_bytes(trun[1:4], "big"), 8
    at += 4 if flags & RUN_OFFSET else 0
    at += 4 if flags & FIRST_FLAGS else 0
    columns = [bit for bit in COLUMNS if flags & bit]
    head = trun[:8] + trun[at - 4 if flags & FIRST_FLAGS else at : at]
    if not columns:
        return head + trun[at:]
    count = int.from_bytes(trun[4:8], "big")
    table = np.frombuffer(trun[at : at + 4 * count * len(columns)], ">u4").reshape(count, -1)
    kept = [i for i, bit in enumerate(columns) if not (sized and bit == SIZE)]
    return head + table[:, kept].tobytes() + trun[at + table.nbytes :]


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
        if one.read(here, part) != other.read(there, part):
            return False
        here, there, size = here + part, there + part, size - part
    return True
