"""A whole file: Segment, Info, the picture track, and its first block."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction

from ....errors import UnreadableFileError
from ...coded import CodedHeaders, HeaderUnit
from ...model import AudioTrack, Notice, Said, TraitValue, VideoTrack
from ...window import Window
from ..avi.chunks import PICTURE_FORMAT, code_of
from ..config import CONFIG_READERS, ConfigRecord, read_vp9_features
from ..decoder import decoder_codec
from ..fourcc import codec_of
from ..model import WrapperReading
from . import elements as ids
from .blocks import blocks, stripped_header
from .ebml import Element, walk
from .video import read_video

NANOSECONDS = 1_000_000_000
LARGEST_DENOMINATOR = 1001
"""Durations are rounded to nanoseconds; every rate in use is a whole or n × 1000/1001."""
SHORTEST_S, LONGEST_S = 1e-4, 1e8
"""Outside these a duration is damage: less than a frame, or three years."""
FRAME_CODECS = frozenset({"prores"})
"""Private data holds no header; of each frame's own, Matroska leaves out the first 8 bytes."""
STATISTICS = frozenset({"BPS", "NUMBER_OF_FRAMES"})
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
    cues: Element | None
    tags: Element | None


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
    codec, private = _codec(window, track, codec_id)
    record = _record(track, codec, private)
    said, odd = read_video(track.inside[ids.VIDEO], track.path)
    said = {**said, **{k: v for k, v in record.said.items() if k not in said}}
    said |= _more(track)
    return WrapperReading(
        wrapper=top.wrapper,
        index_first=None,
        video=replace(_video(top, track, codec, codec_id, said), level=record.level),
        audio=tuple(_sound(t) for t in tracks if t.whole(ids.TRACK_TYPE) == ids.AUDIO_TRACK),
        witness=said,
        coded=CodedHeaders(
            codec=codec,
            length_bytes=record.length_bytes,
            config=record.units,
            samples=tuple(_samples(top, track, codec)),
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
    return _Top(
        wrapper=wrapper,
        segment=segment,
        info=found.get(ids.INFO),
        tracks=found[ids.TRACKS],
        cluster=found.get(ids.CLUSTER),
        cues=found.get(ids.CUES),
        tags=found.get(ids.TAGS),
    )


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


def _codec(window: Window, track: _Track, codec_id: str) -> tuple[str, bytes]:
    """Return the codec and its private data; the decoder names what no table of ours lists."""
    holder = track.inside.get(ids.CODEC_PRIVATE)
    private = holder.bytes() if holder is not None else b""
    code = codec_id
    if codec_id == ids.VFW and len(private) >= PICTURE_FORMAT.size_bytes:
        code = code_of(PICTURE_FORMAT.read(private)["compression"])
        private = private[PICTURE_FORMAT.size_bytes :]
    codec = ids.CODECS.get(codec_id) or codec_of(code) or decoder_codec(window, code)
    return codec, private


def _record(track: _Track, codec: str, private: bytes) -> ConfigRecord:
    where = f"{track.path}/CodecPrivate"
    if codec == "vp9":
        return read_vp9_features(private, where)
    if codec in CONFIG_READERS and private:
        return CONFIG_READERS[codec](private, where)
    units = (HeaderUnit(private, where),) if private and codec not in FRAME_CODECS else ()
    return ConfigRecord({}, 4, units)


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
    top: _Top, track: _Track, codec: str, codec_id: str, said: dict[str, Said]
) -> VideoTrack:
    duration = _duration(top.info)
    rate = said.get("frame_rate")
    count = None
    if duration and rate is not None and isinstance(rate.value, tuple):
        count = round(duration * rate.value[0] / rate.value[1])
    tagged = _statistics(top.tags, track.whole(ids.TRACK_UID))
    bits = tagged.get("BPS") or _measured_rate(top, track, duration)
    return VideoTrack(
        codec=codec,
        codec_tag=codec_id,
        frame_count=tagged.get("NUMBER_OF_FRAMES") or count,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=bits,
    )


def _statistics(tags: Element | None, uid: int) -> dict[str, int]:
    """Return the track's statistics, which some writers leave in tags of its own."""
    found: dict[str, int] = {}
    for tag in tags.children() if tags is not None else ():
        targets = tag.child(ids.TARGETS) if tag.id == ids.TAG else None
        target = targets.child(ids.TAG_TRACK_UID) if targets is not None else None
        if target is None or not uid or target.unsigned() != uid:
            continue
        for item in tag.children():
            name, text = item.child(ids.TAG_NAME), item.child(ids.TAG_TEXT)
            if item.id == ids.SIMPLE_TAG and name is not None and text is not None:
                value = text.text()
                if name.text() in STATISTICS and value.isascii() and value.isdigit():
                    found[name.text()] = int(value[:18])
    return found


def _measured_rate(top: _Top, track: _Track, duration: float | None) -> int | None:
    """Return the average: the clusters' weight, of which the first blocks show the share."""
    if not duration or top.cluster is None:
        return None
    number = track.whole(ids.TRACK_NUMBER)
    sizes = [(block.track, block.size_bytes) for block in blocks(top.cluster)]
    own = sum(size for found, size in sizes if found == number)
    # The clusters' own heads weigh next to nothing.
    whole = (top.segment.end - top.cluster.body.start) * 8 / duration
    return round(whole * own / sum(size for _, size in sizes)) if own else None


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


def _samples(top: _Top, track: _Track, codec: str) -> Iterator[HeaderUnit]:
    """Yield the first frame, and that of the second point at which cues say to start."""
    prefix = stripped_header(track.inside.get(ids.CONTENT_ENCODINGS))
    if prefix is None:
        return
    for unit in _first_frames(top, track.whole(ids.TRACK_NUMBER)):
        data = prefix + unit.data
        if codec == "prores":
            data = struct.pack(">I4s", len(data) + 8, b"icpf") + data
        yield HeaderUnit(data, unit.where)


def _first_frames(top: _Top, number: int) -> Iterator[HeaderUnit]:
    second = _second_cue(top, number)
    for name, cluster in (("Cluster[0]", top.cluster), ("second cue's cluster", second)):
        if cluster is None:
            continue
        first = next((block for block in blocks(cluster) if block.track == number), None)
        if first is not None:
            yield HeaderUnit(first.first_frame(), f"{name} block 0")


def _second_cue(top: _Top, number: int) -> Element | None:
    """Return the cluster of the track's second cue, None where cues name none."""
    places = []
    for point in top.cues.children() if top.cues is not None else ():
        for positions in point.children():
            if positions.id != ids.CUE_POSITIONS:
                continue
            parts = {item.id: item.unsigned() for item in positions.children()}
            if parts.get(ids.CUE_TRACK) == number and ids.CUE_CLUSTER in parts:
                places.append(parts[ids.CUE_CLUSTER])
        if len(set(places)) > 1:
            break
    if len(set(places)) < 2 or places[-1] >= top.segment.body.size:
        return None
    named = next(walk(top.segment.body, places[-1]), None)
    return named if named is not None and named.id == ids.CLUSTER else None
