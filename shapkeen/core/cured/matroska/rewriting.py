"""A Matroska or WebM file whose tracks say what is wished: as patches of the file as it is.

Every place that is named (seek head, cues, clusters' own) and every size follows where its bytes
lie in the copy. Source: RFC 8794, RFC 9559 sections 5 and 6.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ...declared.window import Window
from ...declared.wrappers.matroska import elements as ids
from ...declared.wrappers.matroska.top import choose, read_top, tracks_of
from ...errors import UnreadableFileError
from ..context import Context
from ..copying import Patch, Patches
from ..headers.configuration import UnreadableRecordError, length_bytes, with_units
from ..headers.frame_headers import FRAME_HEADERS, said_in_configuration
from ..headers.obu import ObuEditor
from ..headers.units import Editor
from ..wishes import Wishes
from .items import (
    CRC,
    Item,
    OddElementError,
    check_sum,
    read_item,
    size_bytes,
    unsigned,
)
from .segment import POSITION, PREVIOUS_SIZE, Part, Segment, frames_of, read_segment
from .video import said_in_video

MOST_HEADER = 1 << 28
MOST_TURNS = 8
CUE_RELATIVE = 0xF0
RECORDED = frozenset({"h264", "h265"})


@dataclass(frozen=True, slots=True)
class _Made:
    """What shall be, places and sizes apart: tracks, and patches inside of frames."""

    tracks: Item
    inside: Patches


def rewritten(window: Window, wishes: Wishes, context: Context) -> Patches:
    """Return the patches that make a Matroska file say what is wished.

    Raises UnreadableFileError where the structure is one that cannot be kept whole.
    """
    segment = read_segment(window)
    number, path = _picture(window)
    try:
        tracks = _item(window, segment.tracks)
        made = _said(tracks, path, wishes, context)
        editor = _editor(tracks, path, wishes, context)
        inside = Patches(_in_frames(window, segment, number, editor, wishes, context))
        if made == tracks and not list(inside):
            return inside
        return _whole_patches(window, segment, _Made(made, inside))
    except OddElementError as error:
        raise _odd(str(error)) from error


def _picture(window: Window) -> tuple[int, int]:
    """Return the described track's number, and which of the entries it is."""
    track, _ = choose(list(tracks_of(read_top(window).tracks)))
    path = int(track.path.rpartition("[")[2].rstrip("]"))
    return track.whole(ids.TRACK_NUMBER), path


def _item(window: Window, part: Part) -> Item:
    if part.end - part.start > MOST_HEADER:
        raise OddElementError("an index of more than a quarter of a gigabyte")
    window.source.seek(part.start)
    return read_item(window.source.read(part.end - part.start))


def _entry(tracks: Item, place: int) -> Item:
    return [child for child in tracks.children or () if child.id == ids.TRACK_ENTRY][place]


def _said(tracks: Item, place: int, wishes: Wishes, context: Context) -> Item:
    entry = _entry(tracks, place)
    video = entry.first(ids.VIDEO)
    made = entry.put(said_in_video(video, wishes)) if video else entry
    private = entry.first(ids.CODEC_PRIVATE)
    if private is not None:
        body = _private(private.body, wishes, context)
        if body != private.body:
            made = made.put(Item(ids.CODEC_PRIVATE, private.width, body))
    children = tuple(made if c is entry else c for c in tracks.children or ())
    return replace(tracks, children=children)


def _private(body: bytes, wishes: Wishes, context: Context) -> bytes:
    if context.codec == "av1":
        return ObuEditor(wishes, context.stated).configured(body)
    if context.codec in RECORDED:
        editor = Editor(context.codec, 4, wishes, context.stated, turns=True)
        try:
            return with_units(body, context.codec, editor.changed)
        except UnreadableRecordError:
            return body
    return said_in_configuration(body, context.codec, wishes)


def _editor(
    tracks: Item, place: int, wishes: Wishes, context: Context
) -> Editor | ObuEditor | None:
    """Return who edits frames; None where they hold no units, or are stored otherwise."""
    entry = _entry(tracks, place)
    if entry.first(ids.CONTENT_ENCODINGS) is not None:
        return None
    if context.codec == "av1":
        return ObuEditor(wishes, context.stated)
    private = entry.first(ids.CODEC_PRIVATE)
    if context.codec not in RECORDED or private is None:
        return None
    length = length_bytes(private.body, context.codec)
    return Editor(context.codec, length, wishes, context.stated, turns=True)


def _in_frames(
    window: Window,
    segment: Segment,
    number: int,
    editor: Editor | ObuEditor | None,
    wishes: Wishes,
    context: Context,
) -> Iterator[Patch]:
    header = FRAME_HEADERS.get(context.codec)
    idle = editor is None or editor.is_idle
    if idle and (header is None or not wishes.keys() & header.traits):
        return
    for frame in frames_of(window, segment, number):
        if editor is not None:
            yield from editor.patches(window, frame.start, frame.end - frame.start)
        elif header is not None and frame.end - frame.start >= header.size:
            head = window.read(frame.start, header.size)
            said = header.said(head, wishes)
            if said != head:
                yield Patch(frame.start, header.size, said)


def _whole_patches(window: Window, segment: Segment, made: _Made) -> Patches:
    """Return all patches; places hang on how long what names them becomes."""
    patches = made.inside
    for _ in range(MOST_TURNS):
        following = Patches(_patches(window, segment, made, patches))
        if list(following) == list(patches):
            return patches
        patches = following
    raise OddElementError("places that depend on each other without end")


def _patches(window: Window, segment: Segment, made: _Made, patches: Patches) -> Iterator[Patch]:
    yield Patch(segment.tracks.start, segment.tracks.end - segment.tracks.start, bytes(made.tracks))
    for part in segment.parts:
        if part.id == ids.SEEK_HEAD:
            item = _moved(_item(window, part), ids.SEEK, ids.SEEK_POSITION, segment, patches)
            yield Patch(part.start, part.end - part.start, bytes(item))
        elif part.id == ids.CUES:
            item = _moved_cues(_item(window, part), segment, patches)
            yield Patch(part.start, part.end - part.start, bytes(item))
    if segment.is_sized:
        size = patches.moved(segment.end) - patches.moved(segment.begin)
        head = segment.begin - segment.size_at
        yield Patch(segment.size_at, head, size_bytes(size, head))
    yield from made.inside
    for part in segment.parts:
        if part.id == ids.CLUSTER:
            yield from _cluster(window, segment, part, made, patches)


def _place(segment: Segment, position: int, patches: Patches) -> int:
    """Return a position, counted from the segment's first byte, as it is in the copy."""
    return patches.moved(segment.begin + position) - patches.moved(segment.begin)


def _moved(item: Item, holder: int, wanted: int, segment: Segment, patches: Patches) -> Item:
    children = []
    for child in item.children or ():
        found = child.first(wanted) if child.id == holder else None
        made = child
        if found is not None:
            place = _place(segment, found.unsigned(), patches)
            made = child.put(unsigned(wanted, place, len(found.body)))
        children.append(made)
    return replace(item, children=tuple(children))


def _moved_cues(cues: Item, segment: Segment, patches: Patches) -> Item:
    points = []
    for point in cues.children or ():
        if point.id == ids.CUE_POINT:
            inside = tuple(
                _moved_cue(one, segment, patches) if one.id == ids.CUE_POSITIONS else one
                for one in point.children or ()
            )
            points.append(replace(point, children=inside))
        else:
            points.append(point)
    return replace(cues, children=tuple(points))


def _moved_cue(positions: Item, segment: Segment, patches: Patches) -> Item:
    """Return a cue whose cluster, and place in that cluster, follow."""
    cluster, within = positions.first(ids.CUE_CLUSTER), positions.first(CUE_RELATIVE)
    if cluster is None:
        return positions
    position = cluster.unsigned()
    place = _place(segment, position, patches)
    made = positions.put(unsigned(ids.CUE_CLUSTER, place, len(cluster.body)))
    known = segment.cluster_at(segment.begin + position)
    if within is None or known is None:
        return made
    there = patches.moved(known.begin + within.unsigned()) - patches.moved(known.begin)
    return made.put(unsigned(CUE_RELATIVE, there, len(within.body)))


def _cluster(
    window: Window, segment: Segment, part: Part, made: _Made, patches: Patches
) -> Iterator[Patch]:
    """Yield patches of a cluster's own place and sizes, and of its check sum."""
    several: list[Patch] = []
    for inner in part.inner:
        if inner.id in (POSITION, PREVIOUS_SIZE):
            told = int.from_bytes(window.read(inner.begin, inner.end - inner.begin), "big")
            if inner.id == POSITION:
                now = _place(segment, told, patches)
            else:
                before = segment.cluster_before(part)
                now = told if before is None else patches.moved(before.end) - patches.moved(
                    before.start
                )  # fmt: skip
            width = inner.end - inner.begin
            if now != told and now < 1 << 8 * width:
                several.append(Patch(inner.begin, width, now.to_bytes(width, "big")))
        elif inner.id in (ids.SIMPLE_BLOCK, ids.BLOCK_GROUP):
            several += _sized(inner, patches)
            several += [one for deep in inner.inner for one in _sized(deep, patches)]
    if part.is_sized:
        several += _sized(part, patches)
    yield from several
    summed = next((inner for inner in part.inner if inner.id == CRC), None)
    if summed is None:
        return
    own = [p for p in (*several, *made.inside) if part.begin <= p.start < part.end]
    if own:
        yield Patch(summed.begin, 4, check_sum(_applied(window, summed.end, part.end, own)))


def _sized(part: Part, patches: Patches) -> list[Patch]:
    size = patches.moved(part.end) - patches.moved(part.begin)
    if size == part.end - part.begin:
        return []
    width = part.begin - part.size_at
    return [Patch(part.size_at, width, size_bytes(size, width))]


def _applied(window: Window, start: int, end: int, patches: list[Patch]) -> bytes:
    parts, at = [], start
    for patch in sorted(patches, key=lambda one: one.start):
        if patch.start < start:
            continue
        parts += [window.read(at, patch.start - at), patch.data]
        at = patch.end
    return b"".join([*parts, window.read(at, end - at)])


def _odd(what: str) -> UnreadableFileError:
    return UnreadableFileError(
        f"No copy of this file can be kept whole: {what}. Nothing was written.",
        code="cannot-keep",
        where="Segment",
    )
