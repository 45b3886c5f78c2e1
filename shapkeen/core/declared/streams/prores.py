"""ProRes frame headers. Source: SMPTE RDD 36:2015 section 5.1, as a table."""

from collections.abc import Mapping
from math import gcd

from ..layout import Layout, fields
from .bits import BitReader
from .model import Stated

FRAME = Layout(
    "frame header",
    fields(
        frame_size=32,
        identifier=32,
        header_size=16,
        reserved=8,
        version=8,
        encoder=32,
        width=16,
        height=16,
        chroma=2,
        reserved2=2,
        interlace=2,
        reserved3=2,
        aspect=4,
        frame_rate=4,
        primaries=8,
        transfer=8,
        matrix=8,
    ),
    source="SMPTE RDD 36:2015 5.1",
)
IDENTIFIER = int.from_bytes(b"icpf", "big")
CHROMA = {2: "4:2:2", 3: "4:4:4"}
SCANS = {0: "progressive", 1: "top-first", 2: "bottom-first"}
SQUARE = 1
SHAPES = {2: (4, 3), 3: (16, 9)}
"""Shapes of the whole picture, from which the sample's follows (from memory)."""
RATES = {
    1: (24000, 1001),
    2: (24, 1),
    3: (25, 1),
    4: (30000, 1001),
    5: (30, 1),
    6: (50, 1),
    7: (60000, 1001),
    8: (60, 1),
    9: (100, 1),
    10: (120000, 1001),
    11: (120, 1),
}
UNKNOWN, UNSPECIFIED = 0, 2


def read_header(bits: BitReader) -> Stated:
    """State what a frame's header gives; nothing where none stands."""
    header = bits.table(FRAME)
    if header["identifier"] == IDENTIFIER:
        yield from _stated(header)


def _stated(header: Mapping[str, int]) -> Stated:
    width, height = header["width"], header["height"]
    if width and height:
        yield "raster", (width, height)
        yield from _aspect(header["aspect"], width, height)
    if header["chroma"] in CHROMA:
        yield "chroma", CHROMA[header["chroma"]]
    if header["interlace"] in SCANS:
        yield "scan", SCANS[header["interlace"]]
    if header["frame_rate"] in RATES:
        yield "frame_rate", RATES[header["frame_rate"]]
    for trait in ("primaries", "transfer", "matrix"):
        # 0 means unknown in this header, and never the identity matrix.
        yield trait, UNSPECIFIED if header[trait] == UNKNOWN else header[trait]


def _aspect(code: int, width: int, height: int) -> Stated:
    if code == SQUARE:
        yield "pixel_aspect", (1, 1)
    elif code in SHAPES:
        across, down = SHAPES[code]
        h, v = across * height, down * width
        yield "pixel_aspect", (h // gcd(h, v), v // gcd(h, v))
