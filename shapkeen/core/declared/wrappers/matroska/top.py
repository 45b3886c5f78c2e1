"""The parts of a file that matter, and its tracks. Source: RFC 9559 section 5."""

from collections.abc import Iterator
from dataclasses import dataclass

from ....errors import UnreadableFileError, cut_off
from ...model import Notice
from ...window import Window
from . import elements as ids
from .ebml import Element, walk


@dataclass(frozen=True, slots=True)
class Top:
    """Segment's parts as far as they are needed."""

    wrapper: str
    segment: Element
    info: Element | None
    tracks: Element
    cluster: Element | None
    cues: Element | None
    tags: Element | None


@dataclass(frozen=True, slots=True)
class Track:
    """One TrackEntry: its path, and its elements by id, of a repeated one the first."""

    entry: Element
    path: str
    inside: dict[int, Element]

    def whole(self, wanted: int, default: int = 0) -> int:
        """Return an element's whole number, or the default that the standard gives it."""
        found = self.inside.get(wanted)
        return found.unsigned() if found is not None else default


def read_top(window: Window) -> Top:
    """Return the parts of the first segment; raises UnreadableFileError where it is cut."""
    header, segment = None, None
    for element in walk(window):
        if element.id == ids.EBML_HEADER and header is None:
            header = element
        elif element.id == ids.SEGMENT:
            segment = element
            break
    if header is None or segment is None:
        raise cut_off("The file ends before its first segment", "Segment")
    if segment.is_cut:
        raise cut_off(
            "The file is cut off: its segment claims more bytes than there are", "Segment"
        )
    found = _first_parts(segment)
    if ids.TRACKS not in found:
        raise cut_off("The file states no tracks", "Segment")
    doc_type = header.child(ids.DOC_TYPE)
    wrapper = "webm" if doc_type is not None and doc_type.text() == "webm" else "matroska"
    return Top(
        wrapper=wrapper,
        segment=segment,
        info=found.get(ids.INFO),
        tracks=found[ids.TRACKS],
        cluster=found.get(ids.CLUSTER),
        cues=found.get(ids.CUES),
        tags=found.get(ids.TAGS),
    )


def _first_parts(segment: Element) -> dict[int, Element]:
    """Return Segment's parts up to the first cluster, and behind it those that SeekHead names."""
    found: dict[int, Element] = {}
    for element in segment.children():
        found.setdefault(element.id, element)
        if element.id == ids.CLUSTER:
            break
    seek_head = found.get(ids.SEEK_HEAD)
    if seek_head is not None:
        for wanted, position in _seeks(seek_head):
            named = next(walk(segment.body, position), None)
            if named is not None and named.id == wanted:
                found.setdefault(wanted, named)
    return found


def _seeks(seek_head: Element) -> Iterator[tuple[int, int]]:
    for seek in seek_head.children():
        parts = {item.id: item.unsigned() for item in seek.children()}
        if seek.id == ids.SEEK and {ids.SEEK_ID, ids.SEEK_POSITION} <= set(parts):
            yield parts[ids.SEEK_ID], parts[ids.SEEK_POSITION]


def tracks_of(tracks: Element) -> Iterator[Track]:
    """Yield the tracks in file order."""
    number = 0
    for entry in tracks.children():
        if entry.id == ids.TRACK_ENTRY:
            inside: dict[int, Element] = {}
            for item in entry.children():
                inside.setdefault(item.id, item)
            yield Track(entry, f"Segment/Tracks/TrackEntry[{number}]", inside)
            number += 1


def choose(tracks: list[Track]) -> tuple[Track, list[Notice]]:
    """Return the described picture track and a notice for each other one.

    Raises UnreadableFileError where there is none.
    """
    pictures = [
        track
        for track in tracks
        if track.whole(ids.TRACK_TYPE) == ids.VIDEO_TRACK and ids.VIDEO in track.inside
    ]
    enabled = [track for track in pictures if track.whole(ids.FLAG_ENABLED, 1)] or pictures
    if not enabled:
        raise UnreadableFileError(
            "The file holds no picture track. Choose the file with the picture.",
            code="no-picture",
            where="Segment/Tracks",
        )
    others = [track for track in pictures if track is not enabled[0]]
    text = "Another picture track; it is not described."
    return enabled[0], [Notice("other-picture", text, track.path) for track in others]
