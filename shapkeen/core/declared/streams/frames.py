"""Codecs whose every frame, or every key frame, starts with a header of its own.

A new codec of this kind is one entry and a module with its header.
"""

from collections.abc import Callable
from dataclasses import dataclass

from ..coded import CodedHeaders
from . import prores, vc3, vp8, vp9
from .model import HeaderReader, Reading, StreamReading, no_header

HEADER_BYTES = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameCodec:
    """The header's name as its place, its reader, and how its bytes are put in reading order."""

    name: str
    read: HeaderReader
    arrange: Callable[[bytes], bytes] = bytes


FRAME_CODECS = {
    "prores": FrameCodec(name="frame header", read=prores.read_header),
    "vc3": FrameCodec(name="frame header", read=vc3.read_header),
    "vp8": FrameCodec(name="frame header", read=vp8.read_header, arrange=vp8.arrange),
    "vp9": FrameCodec(name="uncompressed header", read=vp9.read_header),
}


def read_frames(coded: CodedHeaders) -> StreamReading:
    """Return what the first frames' headers say.

    Raises UnreadableFileError where no frame header stands at the start of a sample.
    """
    codec, reading = FRAME_CODECS[coded.codec], Reading()
    for sample in coded.samples:
        data = codec.arrange(sample.data[:HEADER_BYTES])
        reading.header(codec.name, sample.where, data, codec.read)
    if "raster" not in reading.said:
        raise no_header("frame header", "no-frame-header")
    return reading.finish()
