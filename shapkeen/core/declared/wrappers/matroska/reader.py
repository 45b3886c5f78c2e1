"""A whole file: what its picture track says, and its first frames."""

import struct
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

from ...coded import CodedHeaders, HeaderUnit
from ...model import Said, TraitValue
from ...window import Window
from ..avi.chunks import PICTURE_FORMAT, code_of
from ..config import CONFIG_READERS, ConfigRecord, read_vp9_features
from ..decoder import decoder_codec
from ..fourcc import codec_of
from ..model import WrapperReading
from . import elements as ids
from .blocks import blocks, stripped_header
from .ebml import Element, walk
from .figures import sound_track, video_track
from .top import Top, Track, choose, read_top, tracks_of
from .video import read_video

NANOSECONDS = 1_000_000_000
LARGEST_DENOMINATOR = 1001
"""Durations are rounded to nanoseconds; every rate in use is a whole or n × 1000/1001."""
FRAME_CODECS = frozenset({"prores"})
"""Private data holds no header; of each frame's own, Matroska leaves out the first 8 bytes."""
DYNAMIC_HDR_TYPES = frozenset(int.from_bytes(name, "big") for name in (b"dvcC", b"dvvC"))


def starts_matroska(head: bytes) -> bool:
    """Return whether the first bytes start an EBML file."""
    return head.startswith(bytes.fromhex("1A45DFA3"))


def read_matroska(window: Window) -> WrapperReading:
    """Return what the elements say, and the coded headers of the described picture track.

    Raises UnreadableFileError for a cut file, or one without tracks or without a picture.
    """
    top = read_top(window)
    tracks = list(tracks_of(top.tracks))
    track, notices = choose(tracks)
    codec_id = track.inside[ids.CODEC_ID].text() if ids.CODEC_ID in track.inside else ""
    codec, private = _codec(window, track, codec_id)
    record = _record(track, codec, private)
    said, odd = read_video(track.inside[ids.VIDEO], track.path)
    said = {**said, **{k: v for k, v in record.said.items() if k not in said}}
    said |= _more(track)
    return WrapperReading(
        wrapper=top.wrapper,
        index_first=None,
        video=replace(video_track(top, track, codec, codec_id, said), level=record.level),
        audio=tuple(
            sound_track(top, t) for t in tracks if t.whole(ids.TRACK_TYPE) == ids.AUDIO_TRACK
        ),
        witness=said,
        coded=CodedHeaders(
            codec=codec,
            length_bytes=record.length_bytes,
            config=record.units,
            samples=tuple(_samples(top, track, codec)),
        ),
        notices=(*notices, *odd),
    )


def _codec(window: Window, track: Track, codec_id: str) -> tuple[str, bytes]:
    """Return the codec and its private data; the decoder names what no table of ours lists."""
    holder = track.inside.get(ids.CODEC_PRIVATE)
    private = holder.bytes() if holder is not None else b""
    code = codec_id
    if codec_id == ids.VFW and len(private) >= PICTURE_FORMAT.size_bytes:
        code = code_of(PICTURE_FORMAT.read(private)["compression"])
        private = private[PICTURE_FORMAT.size_bytes :]
    codec = ids.CODECS.get(codec_id) or codec_of(code) or decoder_codec(window, code)
    return codec, private


def _record(track: Track, codec: str, private: bytes) -> ConfigRecord:
    where = f"{track.path}/CodecPrivate"
    if codec == "vp9":
        return read_vp9_features(private, where)
    if codec in CONFIG_READERS and private:
        return CONFIG_READERS[codec](private, where)
    units = (HeaderUnit(private, where),) if private and codec not in FRAME_CODECS else ()
    return ConfigRecord({}, 4, units)


def _more(track: Track) -> dict[str, Said]:
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


def _samples(top: Top, track: Track, codec: str) -> Iterator[HeaderUnit]:
    """Yield the first frame, and that of the second point at which cues say to start."""
    prefix = stripped_header(track.inside.get(ids.CONTENT_ENCODINGS))
    if prefix is None:
        return
    for unit in _first_frames(top, track.whole(ids.TRACK_NUMBER)):
        data = prefix + unit.data
        if codec == "prores":
            data = struct.pack(">I4s", len(data) + 8, b"icpf") + data
        yield HeaderUnit(data, unit.where)


def _first_frames(top: Top, number: int) -> Iterator[HeaderUnit]:
    second = _second_cue(top, number)
    for name, cluster in (("Cluster[0]", top.cluster), ("second cue's cluster", second)):
        if cluster is None:
            continue
        first = next((block for block in blocks(cluster) if block.track == number), None)
        if first is not None:
            yield HeaderUnit(first.first_frame(), f"{name} block 0")


def _second_cue(top: Top, number: int) -> Element | None:
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
