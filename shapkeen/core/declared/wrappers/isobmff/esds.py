"""Elementary stream descriptors: what MPEG-4 part 2 and MPEG-2 pictures in MP4 have for a record.

Source: ISO/IEC 14496-1 7.2.6 (from memory), checked against files of the FFmpeg multiplexer.
"""

from dataclasses import dataclass

from ...layout import Layout, fields

ES_DESCRIPTOR, DECODER_CONFIG, DECODER_SPECIFIC = 3, 4, 5
CONFIG = Layout(
    "DecoderConfigDescriptor",
    fields(object_type=8, stream_type=6, up_stream=1, one=1, buffer=24, max_rate=32, avg_rate=32),
    source="ISO/IEC 14496-1 7.2.6.6",
)
CODECS = {
    0x20: "mpeg4",
    **dict.fromkeys(range(0x60, 0x66), "mpeg2"),
    0x6A: "mpeg1video",
    0x6C: "mjpeg",
}
LONGEST_SIZE = 4
FULL_BOX_BYTES = 4
STREAM_HEAD_BYTES = 3


@dataclass(frozen=True, slots=True)
class StreamDescriptor:
    """Codec, None where the object type is not listed; declared rate; and the decoder's header."""

    codec: str | None
    bit_rate: int | None
    header: bytes


def read_esds(data: bytes) -> StreamDescriptor:
    """Return what the box says; raises FieldError where it is cut short."""
    stream = _inside(data[FULL_BOX_BYTES:], ES_DESCRIPTOR)[STREAM_HEAD_BYTES:]
    body = _inside(stream, DECODER_CONFIG)
    config = CONFIG.read(body)
    header = _inside(body[CONFIG.size_bytes :], DECODER_SPECIFIC)
    return StreamDescriptor(CODECS.get(config["object_type"]), config["avg_rate"] or None, header)


def _inside(data: bytes, tag: int) -> bytes:
    """Return the body of the descriptor that starts here; nothing where it is another one."""
    if data[:1] != bytes([tag]):
        return b""
    size = offset = 0
    for offset in range(1, LONGEST_SIZE + 1):
        byte = data[offset] if offset < len(data) else 0
        size = size << 7 | byte & 127
        if not byte & 128:
            break
    return data[offset + 1 : offset + 1 + size]
