"""VP8 key frame headers. Source: RFC 6386 section 9.1 and 9.2 (from memory)."""

from .bits import BitReader
from .model import Stated

START_CODE = 0x9D012A


def arrange(data: bytes) -> bytes:
    """Return the header with its little-endian fields turned, so that bits read from the top."""
    return data[2::-1] + data[3:6] + data[7:5:-1] + data[9:7:-1] + data[10:11]


def read_header(bits: BitReader) -> Stated:
    """State what a key frame's header gives; other frames say nothing.

    The codec has one depth and one chroma sampling, so that its name states both.
    """
    bits.u(19, "first_part_size")
    bits.flag("show_frame")
    bits.u(3, "version")
    if bits.flag("frame_type") or bits.u(24, "start_code") != START_CODE:
        return
    bits.u(2, "horizontal_scale")
    width = bits.u(14, "width")
    bits.u(2, "vertical_scale")
    height = bits.u(14, "height")
    if width and height:
        yield "raster", (width, height)
        yield "bit_depth", 8
        yield "chroma", "4:2:0"
    # The first symbol of the arithmetic decoder, at even odds: it equals the first bit. The one
    # defined value, "similar to BT.601", stands in every file and so says nothing of this one.
    bits.flag("color_space")
