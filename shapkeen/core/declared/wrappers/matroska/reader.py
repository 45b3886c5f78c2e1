"""A whole file: Segment, Info, the picture track, and its first block."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction

from ....errors import UnreadableFileError
from ...coded import CodedHeaders, HeaderUnit
from ...model import AudioTrack, Notice, Said, TraitValue, VideoTrack
from ...window import ShortReadError, Window
from ..config import CONFIG_READERS, ConfigRecord, read_vp9_features
from ..model import WrapperReading
from . import elements as ids
from .ebml import Element, read_number, walk
from .video import read_video

NANOSECONDS = 1_000_000_000
LARGEST_DENOMINATOR = 1001
"""Durations are rounded to nanoseconds; every rate in use is a whole or n × 1000/1001."""
SHORTEST_S, LONGEST_S = 1e-4, 1e8
"""Outside these a duration is damage: less than a frame, or three years."""
FIRST_BLOCK_BYTES = 64 * 1024
MAX_BLOCKS = 64
FRAME_CODECS = frozenset({"prores"})
"""Every frame has a header of its own; Matroska leaves its first 8 bytes out."""
DYNAMIC_HDR_TYPES = frozenset(int.from_bytes(name, "big") for name in (b"dvcC", b"dvvC"))


def starts_matroska(head: bytes) -> bool:
    """Return whether the first bytes start an EBML file."""
    return head.startswith(bytes.fromhex("1A45DFA3"))


@dataclass(frozen=True, slots=True)
class _Top:
    """Segment's parts as far as they are needed."""

    wrapper: str
    segment: Element
    info: Element | None
    tracks: Element
    cluster: Element | None


@dataclass(frozen=True, slots=True)
class _Track:
    entry: Element
    path: str
    inside: dict[int, Element]

    def whole(self, wanted: int, default: int = 0) -> int:
        found = self.inside.get(wanted)
        return found.unsigned() if found is not None else default


def read_matroska(window: Window) -> WrapperReading:
    """Return what the elements say, and the coded headers of the described picture track.

    Raises UnreadableFileError for a cut file, or one without tracks or without a picture.
    """
    top = _read_top(window)
    tracks = list(_tracks(top.tracks))
    track, notices = _choose(tracks)
    codec_id = track.inside[ids.CODEC_ID].text() if ids.CODEC_ID in track.inside else ""
    codec = _codec(codec_id)
    record = _record(track, codec)
    said, odd = read_video(track.inside[ids.VIDEO], track.path)
    said = {**said, **{k: v for k, v in record.said.items() if k not in said}}
    said |= _more(track)
    return WrapperReading(
        wrapper=top.wrapper,
        index_first=None,
        video=replace(
            _video(top, track, codec, codec_id, said, alone=len(tracks) == 1), level=record.level
        ),
        audio=tuple(_sound(t) for t in tracks if t.whole(ids.TRACK_TYPE) == ids.AUDIO_TRACK),
        witness=said,
        coded=CodedHeaders(
            codec=codec,
            length_bytes=record.length_bytes,
            config=record.units,
            samples=tuple(_samples(top.cluster, track, codec)),
        ),
        notices=(*notices, *odd),
    )


def _read_top(window: Window) -> _Top:
    header, segment = None, None
    for element in walk(window):
        if element.id == ids.EBML_HEADER and header is None:
            header = element
        elif element.id == ids.SEGMENT:
            segment = element
            break
    if header is None or segment is None:
        raise _cut("The file ends before its first segment")
    if segment.is_cut:
        raise _cut("The file is cut off: its segment claims more bytes than there are")
    found = _first_parts(segment)
    if ids.TRACKS not in found:
        raise _cut("The file states no tracks")
    doc_type = header.child(ids.DOC_TYPE)
    wrapper = "webm" if doc_type is not None and doc_type.text() == "webm" else "matroska"
    return _Top(wrapper, segment, found.get(ids.INFO), found[ids.TRACKS], found.get(ids.CLUSTER))


def _cut(what: str) -> UnreadableFileError:
    return UnreadableFileError(
        f"{what}. Is it still being written or copied? Wait for that, or export it again.",
        code="truncated",
        where="Segment",
    )


def _first_parts(segment: Element) -> dict[int, Element]:
    """Return Segment's parts up to the first cluster, and behind it those that SeekHead names."""
    found: dict[int, Element] = {}
    for element in segment.children():
        found.setdefault(element.id, element)
        if element.id == ids.CLUSTER:
            break
    seek_head = found.get(ids.SEEK_HEAD)
    if seek_head is not None and ids.TRACKS not in found:
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


def _tracks(tracks: Element) -> Iterator[_Track]:
    number = 0
    for entry in tracks.children():
        if entry.id == ids.TRACK_ENTRY:
            inside: dict[int, Element] = {}
            for item in entry.children():
                inside.setdefault(item.id, item)
            yield _Track(entry, f"Segment/Tracks/TrackEntry[{number}]", inside)
            number += 1


def _choose(tracks: list[_Track]) -> tuple[_Track, list[Notice]]:
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


def _codec(codec_id: str) -> str:
    codec = ids.CODECS.get(codec_id)
    if codec is None or codec not in {*CONFIG_READERS, *FRAME_CODECS}:
        raise UnreadableFileError(
            f"The picture is coded as {codec_id!r}, which is not read yet. "
            "H.264, H.265, AV1, VP9 and ProRes are.",
            code="unsupported-codec",
            where="Segment/Tracks",
        )
    return codec


def _record(track: _Track, codec: str) -> ConfigRecord:
    private = track.inside.get(ids.CODEC_PRIVATE)
    if private is None or codec in FRAME_CODECS:
        return ConfigRecord({}, 4, ())
    read = read_vp9_features if codec == "vp9" else CONFIG_READERS[codec]
    return read(private.bytes(), f"{track.path}/CodecPrivate")


def _more(track: _Track) -> dict[str, Said]:
    """Return frame rate and dynamic HDR, which stand beside the Video element."""
    said: dict[str, Said] = {}
    duration = track.whole(ids.DEFAULT_DURATION)
    if duration:
        rate = Fraction(NANOSECONDS, duration).limit_denominator(LARGEST_DENOMINATOR)
        value = (rate.numerator, rate.denominator)
        said["frame_rate"] = Said(value=value, where=f"{track.path}/DefaultDuration")
    for mapping in track.entry.children():
        if mapping.id != ids.BLOCK_ADDITION_MAPPING:
            continue
        kind = mapping.child(ids.ADDITION_TYPE)
        if kind is not None and kind.unsigned() in DYNAMIC_HDR_TYPES:
            where = f"{track.path}/BlockAdditionMapping"
            kinds: TraitValue = ("st2094-10",)  # type: ignore[assignment]  # a list of words
            said["dynamic_hdr"] = Said(value=kinds, where=where)
    return said


def _video(
    top: _Top, track: _Track, codec: str, codec_id: str, said: dict[str, Said], *, alone: bool
) -> VideoTrack:
    duration = _duration(top.info)
    rate = said.get("frame_rate")
    count = None
    if duration and rate is not None and isinstance(rate.value, tuple):
        count = round(duration * rate.value[0] / rate.value[1])
    bits = None
    if alone and duration and top.cluster is not None:
        # The clusters' own heads weigh next to nothing; with sound beside, nothing is stated.
        bits = round((top.segment.end - top.cluster.body.start) * 8 / duration)
    return VideoTrack(
        codec=codec,
        codec_tag=codec_id,
        frame_count=count,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=bits,
    )


def _duration(info: Element | None) -> float | None:
    if info is None:
        return None
    length, scale = info.child(ids.DURATION), info.child(ids.TIMESTAMP_SCALE)
    if length is None:
        return None
    seconds = length.number() * (scale.unsigned() if scale else 1_000_000) / NANOSECONDS
    return seconds if SHORTEST_S < seconds < LONGEST_S else None


def _sound(track: _Track) -> AudioTrack:
    codec_id = track.inside[ids.CODEC_ID].text() if ids.CODEC_ID in track.inside else ""
    inside = {}
    if ids.AUDIO in track.inside:
        inside = {item.id: item for item in track.inside[ids.AUDIO].children()}
    rate = inside[ids.SAMPLING_FREQUENCY].number() if ids.SAMPLING_FREQUENCY in inside else 8000.0
    channels = inside[ids.CHANNELS].unsigned() if ids.CHANNELS in inside else 1
    return AudioTrack(
        codec=ids.SOUND_CODECS.get(codec_id, codec_id),
        sample_rate_hz=round(rate) if 0 < rate < 1e7 else None,
        channels=channels,
    )


def _samples(cluster: Element | None, track: _Track, codec: str) -> Iterator[HeaderUnit]:
    for unit in _first_block(cluster, track.whole(ids.TRACK_NUMBER)):
        if codec in FRAME_CODECS:
            head = struct.pack(">I4s", len(unit.data) + 8, b"icpf")
            yield HeaderUnit(head + unit.data, unit.where)
        else:
            yield unit


def _first_block(cluster: Element | None, number: int) -> Iterator[HeaderUnit]:
    """Yield the first bytes of the track's first block in the first cluster."""
    if cluster is None:
        return
    for seen, element in enumerate(cluster.children()):
        if element.id in ids.LEVEL_ONE or seen > MAX_BLOCKS:
            return  # a cluster of unknown size ends where the next part of Segment begins
        block = element.child(ids.BLOCK) if element.id == ids.BLOCK_GROUP else element
        if block is None or block.id not in (ids.SIMPLE_BLOCK, ids.BLOCK):
            continue
        try:
            data = block.bytes(FIRST_BLOCK_BYTES)
        except ShortReadError:
            return
        track = read_number(data, keep_marker=False)
        if track is not None and track[0] == number:
            yield HeaderUnit(data[track[1] + 3 :], "Cluster[0] block 0")
            return
