"""VC-3 frame headers. Source: SMPTE ST 2019-1; offsets as read back (boxes of the reference),
field names from memory."""

from ..layout import Layout, fields
from .bits import BitReader
from .model import Stated

FRAME = Layout(
    "frame header",
    fields(
        header_size=32,
        version=8,
        field_flags=8,
        reserved0=144,
        active_lines=16,
        samples_per_line=16,
        reserved1=8,
        lines_again=16,
        reserved2=16,
        depth_code=3,
        reserved3=5,
        reserved4=5,
        interlaced=1,
        reserved5=2,
        reserved6=40,
        compression_id=32,
        progressive=1,
        full_chroma=1,
        reserved7=3,
        colour_volume=2,
        luma_chroma_444=1,
    ),
    source="SMPTE ST 2019-1 (from memory)",
)
COMPRESSION_IDS = range(1235, 1280)
DEPTHS = {1: 8, 2: 10, 3: 12}
PROFILES = {1270: "444", 1271: "HQX", 1272: "HQ", 1273: "SQ", 1274: "LB"}
"""Of the resolution-independent kind; the older identifiers have no names."""
COLOUR_MATRICES = {0: 1, 1: 9, 2: 10, 3: 2}
"""Colour volume → H.273 matrix: BT.709, BT.2020, BT.2020 constant luminance, stated elsewhere."""
PROGRESSIVE_FRAME = 1


def read_header(bits: BitReader) -> Stated:
    """State what a frame's header gives; of field pairs the first one's, at the frame's height."""
    head = bits.table(FRAME)
    if head["compression_id"] not in COMPRESSION_IDS or head["header_size"] >> 16:
        return
    progressive = head["field_flags"] == PROGRESSIVE_FRAME
    width, lines = head["samples_per_line"], head["active_lines"]
    if width and lines:
        yield "raster", (width, lines if progressive else 2 * lines)
    if head["compression_id"] in PROFILES:
        yield "profile", PROFILES[head["compression_id"]]
    yield "scan", "progressive" if progressive else "interlaced"
    if head["depth_code"] in DEPTHS:
        yield "bit_depth", DEPTHS[head["depth_code"]]
    yield "chroma", "4:4:4" if head["full_chroma"] else "4:2:2"
    yield "matrix", COLOUR_MATRICES[head["colour_volume"]]
