"""FLV: script data and the first picture tags.

Sources: the FLV file format, version 10.1, annex E, and its enhanced edition (from memory), checked
against files of the FFmpeg multiplexer.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ....errors import UnreadableFileError
from ...coded import CodedHeaders, HeaderUnit
from ...layout import Layout, fields
from ...model import AudioTrack, Said, TraitValue, VideoTrack
from ...outline import FieldValue, Part, as_fields
from ...sound_heads import SoundHead, read_config
from ...window import Window
from ..config import CONFIG_READERS, ConfigRecord
from ..decoder import decoder_codec
from ..fourcc import codec_of
from ..model import WrapperReading
from .amf import read_script

FLV = "FLV 10.1 annex E"
HEADER = Layout("header", fields(signature=24, version=8, flags=8, offset=32), source=FLV)
TAG = Layout("tag", fields(kind=8, size=24, time_ms=24, time_high=8, stream=24), source=FLV)
BACK_POINTER = 4
SOUND, PICTURE, SCRIPT = 8, 9, 18
TAG_NAMES = {SOUND: "sound", PICTURE: "picture", SCRIPT: "script data"}
KEY_FRAME = 1
AVC = 7
CODECS = {2: "flv1", 4: "vp6f", 5: "vp6a", AVC: "h264"}
SOUND_CODECS = {0: "pcm", 2: "mp3", 3: "pcm", 10: "aac", 11: "speex"}
AAC, SOUND_RATES_HZ = 10, (5512, 11025, 22050, 44100)
SEQUENCE_START, CODED_FRAMES, METADATA = 0, 1, 4
ENHANCED = 0x80
MAX_TAGS = 2000
MAX_READ_BYTES = 1024 * 1024
HEAD_BYTES = 64 * 1024
RATE_LIMIT = 1001
LEAST, MOST = 1e-4, 1e12
"""No honest size, rate or length lies outside; infinities and denormal numbers do."""
ROUNDED = 2e-5
"""Rates of 24, 30, 60 × 1000/1001 are written with three decimals."""
WANTED_FRAMES = 2
COLOUR_NAMES = {
    "bit_depth": "bitDepth",
    "primaries": "colorPrimaries",
    "transfer": "transferCharacteristics",
    "matrix": "matrixCoefficients",
}
DISPLAY_COLOURS = {"red": "red", "green": "green", "blue": "blue", "white": "whitePoint"}
DISPLAY_NAMES = (
    *(f"{word}{axis}" for word in DISPLAY_COLOURS.values() for axis in "XY"),
    "maxLuminance",
    "minLuminance",
)


def starts_flv(head: bytes) -> bool:
    """Return whether the first bytes start an FLV file."""
    return head.startswith(b"FLV\x01")


@dataclass(frozen=True, slots=True)
class _Tag:
    kind: int
    start: int
    time_s: float
    size: int
    data: bytes


def _tags(window: Window) -> Iterator[_Tag]:
    """Yield tags from the start, their data cut at HEAD_BYTES, within MAX_READ_BYTES."""
    offset = HEADER.read(window.read(0, HEADER.size_bytes))["offset"] + BACK_POINTER
    read = 0
    for _ in range(MAX_TAGS):
        if offset + TAG.size_bytes > window.size or read > MAX_READ_BYTES:
            return
        head = TAG.read(window.read(offset, TAG.size_bytes))
        if head["kind"] & 31 not in TAG_NAMES:
            return
        start, size = offset + TAG.size_bytes, head["size"]
        data = window.read(start, max(min(size, HEAD_BYTES, window.size - start), 0))
        read += len(data)
        seconds = (head["time_high"] << 24 | head["time_ms"]) / 1000
        yield _Tag(head["kind"] & 31, offset, seconds, size, data)
        offset = start + size + BACK_POINTER


@dataclass(frozen=True, slots=True)
class _Frame:
    """One picture tag: codec, whether it can start decoding, what it carries, and that."""

    codec: str
    code: str
    key: bool
    packet: int
    body: bytes


def _frame(tag: _Tag) -> _Frame | None:
    data = tag.data
    if not data:
        return None
    key = data[0] >> 4 & 7 == KEY_FRAME
    if data[0] & ENHANCED:
        code, packet = data[1:5].decode("latin-1"), data[0] & 15
        codec = codec_of(code) or ""
        # H.264 and H.265 state a composition time before the coded frame.
        skip = 3 if codec in ("h264", "h265") and packet == CODED_FRAMES else 0
        return _Frame(codec, code, key, packet, data[5 + skip :])
    number = data[0] & 15
    codec = CODECS.get(number, "")
    if number == AVC:
        return _Frame(codec, str(number), key, data[1] if len(data) > 1 else 0, data[5:])
    return _Frame(codec, str(number), key, CODED_FRAMES, data[1:])


def read_flv(window: Window) -> WrapperReading:
    """Return what script data says, and the coded headers of the first pictures.

    Raises UnreadableFileError where no picture tag is found.
    """
    tags = list(_until_second_key(window))
    frames = [f for tag in tags if tag.kind == PICTURE and (f := _frame(tag))]
    if not frames:
        raise UnreadableFileError(
            "The file holds no picture near its start. Choose the file with the picture.",
            code="no-picture",
            where="tags",
        )
    script = next((read_script(tag.data) for tag in tags if tag.kind == SCRIPT), {})
    codec = frames[0].codec or decoder_codec(window, frames[0].code)
    record = _record(frames, codec)
    samples = [f for f in frames if f.packet != SEQUENCE_START and f.key][:WANTED_FRAMES]
    said = {**_witness(_stated(script), "script data"), **record.said}
    for frame in frames:
        if frame.packet == METADATA and frame.code != str(AVC):
            said |= _witness(_colour(read_script(frame.body)), "metadata tag")
    return WrapperReading(
        wrapper="flv",
        index_first=None,
        video=_video(window, script, frames[0], codec, tags),
        audio=tuple(_sound(script, tags)),
        witness=said,
        coded=CodedHeaders(
            codec=codec,
            length_bytes=record.length_bytes,
            config=record.units,
            samples=tuple(HeaderUnit(f.body, f"key frame {i}") for i, f in enumerate(samples)),
        ),
        notices=(),
    )


def _until_second_key(window: Window) -> Iterator[_Tag]:
    keys = 0
    for tag in _tags(window):
        yield tag
        frame = _frame(tag) if tag.kind == PICTURE else None
        keys += bool(frame and frame.key and frame.packet != SEQUENCE_START)
        if keys == WANTED_FRAMES:
            return


def _record(frames: list[_Frame], codec: str) -> ConfigRecord:
    for frame in frames:
        if frame.packet == SEQUENCE_START and codec in CONFIG_READERS and frame.body:
            return CONFIG_READERS[codec](frame.body, "sequence start")
    return ConfigRecord({}, 4, ())


def _number(script: dict[str, object], name: str) -> float | None:
    value = script.get(name)
    if isinstance(value, float) and LEAST < value < MOST:
        return value
    return None


def _witness(stated: Iterator[tuple[str, TraitValue]], where: str) -> dict[str, Said]:
    return {trait: Said(value=value, where=where) for trait, value in stated}


def _stated(script: dict[str, object]) -> Iterator[tuple[str, TraitValue]]:
    width, height = _number(script, "width"), _number(script, "height")
    if width and height:
        yield "raster", (round(width), round(height))
    rate = _number(script, "framerate")
    if rate:
        exact = _exact_rate(rate)
        yield "frame_rate", (exact.numerator, exact.denominator)


def _colour(info: dict[str, object]) -> Iterator[tuple[str, TraitValue]]:
    """State colour, light level and mastering display from enhanced files' colour information."""
    config, light, display = (
        part if isinstance(part := info.get(name), dict) else {}
        for name in ("colorConfig", "hdrCll", "hdrMdcv")
    )
    for trait, name in COLOUR_NAMES.items():
        code = config.get(name)
        if isinstance(code, float) and 0 <= code < 256:
            yield trait, round(code)
    if isinstance(light.get("maxCLL"), float):
        values = {"max_cll": light.get("maxCLL"), "max_fall": light.get("maxFall", 0.0)}
        yield "content_light", {k: round(v) for k, v in values.items() if isinstance(v, float)}
    figures = {name: v for name in DISPLAY_NAMES if isinstance(v := display.get(name), float)}
    if len(figures) == len(DISPLAY_NAMES):
        colours: dict[str, TraitValue] = {
            colour: (round(figures[f"{word}X"], 6), round(figures[f"{word}Y"], 6))
            for colour, word in DISPLAY_COLOURS.items()
        }
        light_range = {"max": figures["maxLuminance"], "min": round(figures["minLuminance"], 6)}
        yield "mastering_display", colours | light_range


def _exact_rate(rate: float) -> Fraction:
    """Return the rate that a rounded decimal stands for: 23.976 is 24000/1001."""
    broadcast = Fraction(round(rate * 1.001) * 1000, 1001)
    if broadcast and abs(rate / float(broadcast) - 1) < ROUNDED:
        return broadcast
    return Fraction(rate).limit_denominator(RATE_LIMIT)


def _video(
    window: Window, script: dict[str, object], first: _Frame, codec: str, tags: list[_Tag]
) -> VideoTrack:
    duration, kilobits = _number(script, "duration"), _number(script, "videodatarate")
    rate = round(kilobits * 1000) if kilobits else None
    if rate is None and duration:
        # The first tags show the picture's share of the file.
        own = sum(tag.size for tag in tags if tag.kind == PICTURE)
        rate = round(window.size * 8 / duration * own / sum(tag.size for tag in tags))
    # Pictures are counted nowhere, and the duration is rounded to the last tag's time.
    return VideoTrack(codec=codec, codec_tag=first.code, duration_s=duration, bit_rate=rate)


def _sound(script: dict[str, object], tags: list[_Tag]) -> Iterator[AudioTrack]:
    """Yield the sound in short. Of AAC the tag's own rate and channels are always the same two."""
    first = next((tag.data for tag in tags if tag.kind == SOUND and tag.data), None)
    if first is None:
        return
    number, kilobits = first[0] >> 4, _number(script, "audiodatarate")
    head = SoundHead(SOUND_RATES_HZ[first[0] >> 2 & 3], (first[0] & 1) + 1)
    if number == AAC:
        head = read_config(first[2:]) if first[1:2] == b"\0" else SoundHead()
    yield AudioTrack(
        codec=SOUND_CODECS.get(number, str(number)),
        sample_rate_hz=head.sample_rate_hz,
        channels=head.channels,
        bit_rate=round(kilobits * 1000) if kilobits else None,
    )


def outline_flv(window: Window) -> tuple[Part, ...]:
    """Return the header and the first tags with their fields."""
    head = HEADER.read(window.read(0, HEADER.size_bytes))
    parts = [
        Part(
            name="header",
            where="header",
            start=0,
            size=HEADER.size_bytes,
            fields=as_fields(dict(head)),
        )
    ]
    for number, tag in enumerate(_until_second_key(window)):
        name = TAG_NAMES.get(tag.kind, f"tag {tag.kind}")
        values: dict[str, FieldValue] = {"time_s": tag.time_s}
        if tag.kind == SCRIPT:
            values |= dict(_flat(read_script(tag.data)))
        frame = _frame(tag) if tag.kind == PICTURE else None
        if frame:
            values |= {"codec": frame.code, "key_frame": int(frame.key), "packet": frame.packet}
        parts.append(
            Part(
                name=name,
                where=f"tag {number}",
                start=tag.start,
                size=tag.size + TAG.size_bytes,
                fields=as_fields(values),
            )
        )
    return tuple(parts)


def _flat(script: dict[str, object], prefix: str = "") -> Iterator[tuple[str, FieldValue]]:
    for name, value in script.items():
        if isinstance(value, dict):
            yield from _flat(value, f"{prefix}{name}.")
        elif isinstance(value, (bool, float, str)):
            yield f"{prefix}{name}", int(value) if isinstance(value, bool) else value
