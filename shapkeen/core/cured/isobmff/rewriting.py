"""An ISO base media file whose index says what is wished: as patches of the file as it is.

Source: ISO/IEC 14496-12. Only the index changes, and places in it where bytes behind it move.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ...declared.window import Window
from ...declared.wrappers.isobmff.boxes import MAX_TOP_BOXES, Box, walk
from ...declared.wrappers.isobmff.reader import picture_track
from ...errors import UnreadableFileError
from ..context import Context
from ..copying import Patch, Patches
from ..headers.configuration import length_bytes
from ..headers.frame_headers import FRAME_HEADERS
from ..headers.obu import ObuEditor
from ..headers.units import Editor
from ..wishes import Wishes
from .entry import RECORDS
from .offsets import moved_fragment, moved_fragment_index, with_moved_chunks
from .places import Samples, samples_of, table_samples, track_number
from .sizes import media_headers, with_run_sizes, with_segment_sizes, with_sizes
from .track import entries_of, said_in_track
from .tree import Node, OddBoxError, read_node

MOST_INDEX = 1 << 30
"""Bytes of an index that are read into memory: days of film have less."""
ENCRYPTED = frozenset({"encv", "enca"})
MOST_TURNS = 6
SELF_CONTAINED = 0x1


@dataclass(frozen=True, slots=True)
class _Top:
    moov: Box
    moofs: tuple[Box, ...]
    mfras: tuple[Box, ...]
    first_mdat: int | None
    behind_ftyp: int
    metas: tuple[Box, ...]
    sidxs: tuple[Box, ...]
    mdats: tuple[Box, ...]


def rewritten(window: Window, wishes: Wishes, context: Context) -> Patches:
    """Return the patches that make an ISO base media file say what is wished.

    Raises UnreadableFileError where the structure is one that cannot be kept whole.
    """
    top = _read_top(window)
    moov = _index(window, top.moov)
    picture = moov.all("trak")[_picture_number(top.moov)]
    _check(moov, picture)
    moofs = [(box.start, _index(window, box)) for box in top.moofs]
    samples = samples_of(moov, picture, moofs)
    inside = Patches(_in_samples(window, samples, wishes, context, picture))
    said = moov.with_child(said_in_track(picture, wishes, context), instead=picture)
    front = bool(wishes.get("index_first")) and (top.first_mdat or 0) < top.moov.start
    if said == moov and not front and not list(inside):
        return inside
    try:
        return _whole_patches(window, top, _Made(said, inside, table_samples(picture), front))
    except OddBoxError as error:
        raise _odd(str(error), "moov") from error


@dataclass(frozen=True, slots=True)
class _Made:
    """What shall be: the index but for places and sizes, the samples' own patches, and where."""

    moov: Node
    inside: Patches
    samples: Samples
    front: bool


def _whole_patches(window: Window, top: _Top, made: _Made) -> Patches:
    """Return all patches: index, samples, and every place and size that follows from them.

    Places hang on how large the index becomes, and that on how wide places are written.
    """
    patches = made.inside
    for _ in range(MOST_TURNS):
        index = bytes(_index_of(top, made, patches))
        several = [
            *_placed(top, index, front=made.front),
            *made.inside,
            *_elsewhere(window, top, made, patches),
        ]
        following = Patches(several)
        if list(following) == list(patches):
            _check_places(window, top, made.moov, patches)
            return patches
        patches = following
    raise OddBoxError("places that depend on each other without end")


def _index_of(top: _Top, made: _Made, patches: Patches) -> Node:
    moov = made.moov
    if list(made.inside):
        number = _picture_number(top.moov)
        picture = moov.all("trak")[number]
        moov = moov.with_child(with_sizes(picture, made.samples, patches), instead=picture)
    return with_moved_chunks(moov, patches.moved_all)


def _in_samples(
    window: Window, samples: Samples, wishes: Wishes, context: Context, picture: Node
) -> Iterator[Patch]:
    """Yield patches of the coded headers that stand in samples."""
    yield from _in_frames(window, samples, wishes, context)
    editor = _editor(picture, wishes, context)
    if editor is None or editor.is_idle:
        return
    for place, size in zip(*(column.tolist() for column in samples), strict=True):
        if place + size <= window.size:
            yield from editor.patches(window, place, size)


def _editor(picture: Node, wishes: Wishes, context: Context) -> Editor | ObuEditor | None:
    """Return who edits samples made of units; None for codecs whose samples are one frame."""
    if context.codec == "av1":
        return ObuEditor(wishes, context.stated)
    record = next((e.first(RECORDS.get(context.codec, "")) for e in entries_of(picture)), None)
    if record is None:
        return None
    length = length_bytes(record.head, context.codec)
    return Editor(context.codec, length, wishes, context.stated)


def _in_frames(
    window: Window, samples: Samples, wishes: Wishes, context: Context
) -> Iterator[Patch]:
    """Yield patches of the frames' own headers, of codecs that have some of fixed size."""
    header = FRAME_HEADERS.get(context.codec)
    if header is None or not wishes.keys() & header.traits:
        return
    for place, size in zip(*(column.tolist() for column in samples), strict=True):
        if size < header.size or place + header.size > window.size:
            continue
        head = window.read(place, header.size)
        said = header.said(head, wishes)
        if said != head:
            yield Patch(place, header.size, said)


def _read_top(window: Window) -> _Top:
    moov: Box | None = None
    moofs, mfras, metas, sidxs, mdats = [], [], [], [], []
    first_mdat, behind_ftyp = None, 0
    for box in walk(window, "", 0, MAX_TOP_BOXES):
        if box.type == "moov" and moov is None:
            moov = box
        elif box.type == "ftyp" and not behind_ftyp:
            behind_ftyp = box.claimed_end
        elif box.type == "mdat":
            first_mdat = box.start if first_mdat is None else first_mdat
            mdats.append(box)
        elif box.type == "sidx":
            sidxs.append(box)
        elif box.type == "moof":
            moofs.append(box)
        elif box.type == "mfra":
            mfras.append(box)
        elif box.type == "meta":
            metas.append(box)
    if moov is None:
        raise _odd("it has no index (moov)", "moov")
    found = (tuple(boxes) for boxes in (metas, sidxs, mdats))
    return _Top(moov, tuple(moofs), tuple(mfras), first_mdat, behind_ftyp, *found)


def _whole(window: Window, box: Box) -> bytes:
    size = box.claimed_end - box.start
    if size > MOST_INDEX:
        raise _odd(f"its index has {size} bytes", box.path)
    window.source.seek(box.start)
    data = window.source.read(size)
    if len(data) != size:
        raise _odd("it became shorter", box.path)
    return data


def _index(window: Window, box: Box) -> Node:
    try:
        return read_node(_whole(window, box))
    except OddBoxError as error:
        raise _odd(str(error), box.path) from error


def _picture_number(moov: Box) -> int:
    """Return which of the `trak` boxes the described picture is, from 0."""
    path = picture_track(moov).box.path
    return int(path.rpartition("[")[2].rstrip("]"))


def _check(moov: Node, picture: Node) -> None:
    if any(entry.name in ENCRYPTED for entry in entries_of(picture)):
        raise UnreadableFileError(
            "The picture is encrypted: nobody could prove that a copy holds it whole. Take the "
            "file from before its encryption.",
            code="encrypted",
            where="moov",
        )
    for trak in moov.all("trak"):
        dref = trak.first("mdia", "minf", "dinf", "dref")
        if dref is not None and _points_outside(dref.head):
            raise _odd("some of its pictures or sound lie in other files", "moov/trak")


def _points_outside(dref: bytes) -> bool:
    at = 8
    while at + 12 <= len(dref):
        size = int.from_bytes(dref[at : at + 4], "big")
        if not int.from_bytes(dref[at + 9 : at + 12], "big") & SELF_CONTAINED:
            return True
        at += max(size, 12)
    return False


def _placed(top: _Top, index: bytes, *, front: bool) -> Iterator[Patch]:
    size = top.moov.claimed_end - top.moov.start
    if not front:
        yield Patch(top.moov.start, size, index)
        return
    yield Patch(top.behind_ftyp, 0, index)
    yield Patch(top.moov.start, size, b"")


def _elsewhere(window: Window, top: _Top, made: _Made, patches: Patches) -> Iterator[Patch]:
    """Yield patches of fragments, of their indexes and of media data, which follow what moves."""
    if not any(patch.growth for patch in patches):
        return
    yield from media_headers(window, top.mdats, patches)
    number = track_number(made.moov.all("trak")[_picture_number(top.moov)])
    for box in top.moofs:
        before = _index(window, box)
        sized = with_run_sizes(before, box.start, number, patches) if list(made.inside) else before
        after = moved_fragment(sized, patches.moved_all)
        if after != before:
            yield Patch(box.start, box.claimed_end - box.start, bytes(after))
    for box in top.mfras:
        before = _index(window, box)
        after = moved_fragment_index(before, patches.moved_all)
        if after != before:
            yield Patch(box.start, box.claimed_end - box.start, bytes(after))
    for box in top.sidxs:
        body = box.bytes()
        told = with_segment_sizes(body, box.claimed_end, patches)
        if told != body:
            yield Patch(box.claimed_end - len(body), len(body), told)


def _check_places(window: Window, top: _Top, moov: Node, patches: Patches) -> None:
    """Refuse a file in which items (`iloc`) name absolute places that would move."""
    if not any(patch.growth for patch in patches):
        return
    items = [*_metas(moov), *(_whole(window, box) for box in top.metas)]
    if any(b"iloc" in body for body in items):
        raise _odd("items in it (`iloc`) name places that would move", "meta")


def _metas(node: Node) -> Iterator[bytes]:
    for child in node.children or ():
        if child.name in ("meta", "udta"):
            yield child.head
        yield from _metas(child)


def _odd(what: str, where: str) -> UnreadableFileError:
    return UnreadableFileError(
        f"No copy of this file can be kept whole: {what}. Nothing was written.",
        code="cannot-keep",
        where=where,
    )
