"""The general decoder's demultiplexers: for names of codecs that no table of ours lists, and for
wrappers that no reader of ours reads.

Only bytes and names are taken from it. What it makes of headers merges the two witnesses, so that
none of it is passed on (docs/witnesses.md).
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

from ...errors import UnreadableFileError
from ..coded import CodedHeaders, HeaderUnit
from ..model import AudioTrack, VideoTrack
from ..outline import Part, as_fields
from ..window import Window
from .config import CONFIG_READERS
from .model import WrapperReading

if TYPE_CHECKING:
    from av.audio.codeccontext import AudioCodecContext
    from av.audio.stream import AudioStream
    from av.container import InputContainer
    from av.video.stream import VideoStream

NAMES = {"hevc": "h265", "mpeg2video": "mpeg2", "dnxhd": "vc3"}
"""The decoder's name → the contract's; every other name is its own."""
LIMITS = (("probesize", "1000000"), ("analyzeduration", "0"))
"""The demultiplexer reads a megabyte at most before it answers."""
TIMEOUT_S = 5.0
RECORD_VERSION = 1
MAX_PACKETS = 1000
MAX_DEMUXED_BYTES = 8 * 1024 * 1024
HEAD_BYTES = 64 * 1024
WANTED_SAMPLES = 2


@contextmanager
def _opened(window: Window) -> Iterator[tuple[InputContainer, VideoStream]]:
    """Open the file with the decoder's demultiplexer and give its first picture track."""
    # Imported here: most files need no decoder, and `read` starts faster without it.
    import av

    window.source.seek(window.start)
    try:
        container = av.open(
            window.source, "r", metadata_errors="replace", options=dict(LIMITS), timeout=TIMEOUT_S
        )
    except (av.FFmpegError, OSError, ValueError) as error:
        raise UnreadableFileError(
            "This is no picture file: its first bytes start no known wrapper. "
            "Check that the right file was chosen.",
            code="not-a-picture-file",
            where="first bytes",
        ) from error
    with container:
        attached = av.stream.Disposition.attached_pic
        pictures = [s for s in container.streams.video if not s.disposition & attached]
        if not pictures:
            raise UnreadableFileError(
                "The file holds no picture track. Choose the file with the picture.",
                code="no-picture",
                where=container.format.name,
            )
        yield container, pictures[0]


def _name(stream: VideoStream) -> str:
    """Return the codec's name; raises UnreadableFileError where the decoder knows none."""
    if stream.codec_context is None:
        raise UnreadableFileError(
            "The picture's codec is not known to the decoder. Export it in another codec.",
            code="unsupported-codec",
            where="track header",
        )
    name = stream.codec_context.codec.canonical_name
    return NAMES.get(name, name)


def decoder_codec(window: Window, code: str) -> str:
    """Return the decoder's name of a codec that no table lists.

    Raises UnreadableFileError, naming the file's own `code`, where it knows none either.
    """
    try:
        with _opened(window) as (_, stream):
            return _name(stream)
    except UnreadableFileError as error:
        raise UnreadableFileError(
            f"The picture is coded as {code.strip()!r}, which no decoder here knows. "
            "Export it in another codec.",
            code="unsupported-codec",
            where=code.strip(),
        ) from error


def read_other(window: Window) -> WrapperReading:
    """Return a file of any other wrapper: its codec and coded headers; its own words stay unread.

    Raises UnreadableFileError for what the decoder does not open either.
    """
    with _opened(window) as (container, stream):
        codec = _name(stream)
        config, length_bytes = _config(codec, stream.codec_context.extradata or b"")
        duration = container.duration / 1_000_000 if container.duration else None
        return WrapperReading(
            wrapper="other",
            index_first=None,
            video=VideoTrack(
                codec=codec,
                codec_tag=container.format.name.split(",")[0],
                frame_count=stream.frames or None,
                duration_s=round(duration, 6) if duration else None,
                bit_rate=_bit_rate(container, window, duration),
            ),
            audio=tuple(map(_sound, container.streams.audio)),
            witness={},
            coded=CodedHeaders(
                codec=codec,
                length_bytes=length_bytes,
                config=config,
                samples=tuple(_samples(container, stream)),
            ),
            notices=(),
        )


def _sound(stream: AudioStream) -> AudioTrack:
    context: AudioCodecContext | None = stream.codec_context  # None for codecs it does not know
    if context is None:
        return AudioTrack(codec="unknown")
    return AudioTrack(
        codec=context.name,
        sample_rate_hz=context.sample_rate or None,
        channels=context.channels or None,
    )


def outline_other(window: Window) -> tuple[Part, ...]:
    """Return one part that names the wrapper; its fields are not read."""
    with _opened(window) as (container, stream):
        facts = {"format": container.format.name, "codec": _name(stream)}
        return (
            Part(
                name=container.format.name.split(",")[0],
                where="",
                start=0,
                size=window.size,
                fields=as_fields(dict(facts)),
            ),
        )


def _bit_rate(container: InputContainer, window: Window, duration: float | None) -> int | None:
    # With sound beside, the payload of the picture alone is not known without reading it all.
    alone = len(container.streams) == 1
    return round(window.size * 8 / duration) if duration and alone else None


def _config(codec: str, data: bytes) -> tuple[tuple[HeaderUnit, ...], int]:
    """Return units of the track's own header, and how units in samples are told apart."""
    where = "track header"
    if not data:
        return (), 0
    if codec in CONFIG_READERS and data[0] & 127 == RECORD_VERSION:
        record = CONFIG_READERS[codec](data, where)
        return record.units, record.length_bytes
    from_start_codes = data.startswith((b"\0\0\1", b"\0\0\0\1"))
    if codec in ("h264", "h265") and from_start_codes:
        units = (unit.lstrip(b"\0") for unit in data.split(b"\0\0\1"))
        return tuple(HeaderUnit(unit, where) for unit in units if unit), 0
    return (HeaderUnit(data, where),), 0


def _samples(container: InputContainer, stream: VideoStream) -> Iterator[HeaderUnit]:
    """Yield the first bytes of the first packets at which decoding can start."""
    import av

    found = read = 0
    try:
        for number, packet in enumerate(container.demux(stream)):
            read += packet.size
            if packet.size and (packet.is_keyframe or not number):
                yield HeaderUnit(bytes(packet)[:HEAD_BYTES], f"packet {number}")
                found += 1
            if found == WANTED_SAMPLES or number > MAX_PACKETS or read > MAX_DEMUXED_BYTES:
                return
    except (av.FFmpegError, OSError):
        return
