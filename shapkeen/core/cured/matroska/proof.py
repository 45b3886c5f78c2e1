"""Whether a copy holds every block where it was: both segments read anew, block by block.

Source: RFC 9559 sections 5 and 10.
"""

from collections.abc import Iterator
from hashlib import blake2b

from ...declared.window import Window
from ...declared.wrappers.matroska import elements as ids
from ...declared.wrappers.matroska.ebml import read_number
from ...declared.wrappers.matroska.top import choose, read_top, tracks_of
from ..headers import obu
from ..headers.configuration import length_bytes
from ..headers.frame_headers import FRAME_HEADERS, said_in_configuration
from ..headers.units import is_header, units_in, unwritten
from ..model import Proof
from .items import CRC, VOID, Item, read_item
from .segment import LACED, Part, cluster_parts, parts_of, read_segment

PLACES = frozenset({ids.SEEK_HEAD, ids.CUES, VOID, CRC})
"""What names places: it follows, and is proved by being read back."""
IN_CLUSTER = frozenset({CRC, VOID, 0xA7, 0xAB})
RECORDED = frozenset({"h264", "h265"})


def prove(original: Window, copy: Window, codec: str) -> Proof:
    """Return the proof that a copy's blocks and times are the original's, headers apart.

    codec: of the picture. Raises OddElementError where a segment cannot be read.
    """
    sides = [_parts(window) for window in (original, copy)]
    if [part.id for part in sides[0]] != [part.id for part in sides[1]]:
        return Proof(0, unchanged=False)
    number, place, length = _picture(original, codec)
    pictures, same = 0, True
    for one, other in zip(*sides, strict=True):
        if one.id == ids.CLUSTER:
            held = [
                list(_held(window, part, number, codec, length))
                for window, part in ((original, one), (copy, other))
            ]
            pictures += sum(1 for kind, _ in held[0] if kind == number)
            same = same and held[0] == held[1]
        elif one.id == ids.TRACKS:
            same = same and _same_tracks(_item(original, one), _item(copy, other), place, codec)
        else:
            same = same and _digest(original, one) == _digest(copy, other)
    return Proof(pictures, same)


def _parts(window: Window) -> list[Part]:
    return [part for part in read_segment(window).parts if part.id not in PLACES]


def _picture(window: Window, codec: str) -> tuple[int, int, int]:
    """Return the picture's track number, which entry it is, and bytes of its units' lengths."""
    track, _ = choose(list(tracks_of(read_top(window).tracks)))
    private = track.inside.get(ids.CODEC_PRIVATE)
    plain = ids.CONTENT_ENCODINGS not in track.inside
    length = 0
    if plain and private is not None and codec in RECORDED:
        length = length_bytes(private.bytes(64), codec)
    place = int(track.path.rpartition("[")[2].rstrip("]"))
    return track.whole(ids.TRACK_NUMBER), place, length


def _item(window: Window, part: Part) -> Item:
    window.source.seek(part.start)
    return read_item(window.source.read(part.end - part.start))


def _same_tracks(one: Item, other: Item, place: int, codec: str) -> bool:
    """Return whether all tracks are alike, but for the picture's own words."""
    entries = [[c for c in item.children or () if c.id == ids.TRACK_ENTRY] for item in (one, other)]
    if len(entries[0]) != len(entries[1]):
        return False
    told = [
        [_untold(entry, codec) if at == place else entry for at, entry in enumerate(side)]
        for side in entries
    ]
    return [entry.content() for entry in told[0]] == [entry.content() for entry in told[1]]


def _untold(entry: Item, codec: str) -> Item:
    """Return an entry without what a cure may rewrite; its picture parameter sets stay."""
    private, kept = entry.first(ids.CODEC_PRIVATE), entry.without(ids.VIDEO, ids.CODEC_PRIVATE)
    if private is None or codec == "av1":
        return kept
    recorded = codec in RECORDED
    body = private.body
    body = unwritten(body, codec) if recorded else said_in_configuration(body, codec)
    return kept.put(Item(ids.CODEC_PRIVATE, 8, body))


def _digest(window: Window, part: Part) -> bytes:
    """Return a digest of an element's bytes, read a piece at a time."""
    made, at = blake2b(), part.begin
    while at < part.end:
        count = min(part.end - at, 16 << 20)
        made.update(window.read(at, count))
        at += count
    return made.digest()


def _held(
    window: Window, cluster: Part, number: int, codec: str, length: int
) -> Iterator[tuple[int, object]]:
    """Yield what a cluster holds, in its order: track and content of blocks, bytes of the rest."""
    for part in cluster_parts(window, cluster):
        if part.id in IN_CLUSTER:
            continue
        if part.id == ids.BLOCK_GROUP:
            for inner in parts_of(window, part):
                if inner.id == ids.BLOCK:
                    yield _block(window, inner, number, codec, length)
                else:
                    yield -inner.id, _digest(window, inner)
        elif part.id == ids.SIMPLE_BLOCK:
            yield _block(window, part, number, codec, length)
        else:
            yield -part.id, _digest(window, part)


def _block(window: Window, block: Part, number: int, codec: str, length: int) -> tuple[int, object]:
    head = window.read(block.begin, min(12, block.end - block.begin))
    track = read_number(head, keep_marker=False)
    if track is None or track[0] != number or head[track[1] + 2] & LACED:
        return (track[0] if track else 0), _digest(window, block)
    begin = block.begin + track[1] + 3
    words = head[: track[1] + 3]
    return number, (words, _coded(window, begin, block.end - begin, codec, length))


def _coded(window: Window, place: int, size: int, codec: str, length: int) -> list[bytes]:
    """Return digests of what is coded in a frame: all but sets, sequence headers and messages."""
    if codec == "av1":
        spans = [
            (unit.at, unit.end)
            for unit in obu.units_in(window, place, size)
            if unit.type not in obu.HEADERS
        ]
    elif length:
        units = list(units_in(window, place, size, length, codec))
        end = units[-1].body + units[-1].size if units else place
        kept = [unit for unit in units if not is_header(unit.type, codec)]
        spans = [(unit.body, unit.body + unit.size) for unit in kept]
        spans.append((end, place + size))
    elif codec in FRAME_HEADERS and size >= FRAME_HEADERS[codec].size:
        header = FRAME_HEADERS[codec]
        head = header.said(window.read(place, header.size), header.levelled)
        return [head, blake2b(window.read(place + header.size, size - header.size)).digest()]
    else:
        spans = [(place, place + size)]
    return [blake2b(window.read(begin, end - begin)).digest() for begin, end in spans]
