"""MPEG-2 sequence headers and extensions. Source: ITU-T H.262 6.2.2 and 6.2.3, 6.3.3.

The headers complete each other, so that they are read first and speak together.
"""

from collections.abc import Mapping
from fractions import Fraction
from math import gcd

from ..coded import CodedHeaders
from ..sampling import CHROMA_FORMATS
from . import nal
from .bits import BitReader
from .model import HeaderReader, Reading, Stated, StreamReading, no_header

SEQUENCE, EXTENSION, PICTURE = 0xB3, 0xB5, 0x00
SLICES = range(0x01, 0xB0)
SEQUENCE_EXTENSION, DISPLAY_EXTENSION, PICTURE_CODING_EXTENSION = 1, 2, 8
RATES = {
    1: Fraction(24000, 1001),
    2: Fraction(24),
    3: Fraction(25),
    4: Fraction(30000, 1001),
    5: Fraction(30),
    6: Fraction(50),
    7: Fraction(60000, 1001),
    8: Fraction(60),
}
SQUARE = 1
SHAPES = {2: (4, 3), 3: (16, 9), 4: (221, 100)}
"""Shapes of the display area, not of the sample."""
PROFILES = {1: "High", 2: "Spatially Scalable", 3: "SNR Scalable", 4: "Main", 5: "Simple"}
LEVELS = {4: "High", 6: "High 1440", 8: "Main", 10: "Low"}
ESCAPED = {0x82: ("4:2:2", "High"), 0x85: ("4:2:2", "Main"), 0x8E: ("Multi-view", "Low")}
"""Source: H.262 tables 8-2 to 8-4 (from memory)."""
TOP_FIELD, BOTTOM_FIELD = 1, 2


def read_mpeg2(coded: CodedHeaders) -> StreamReading:
    """Return what sequence headers, extensions and the first pictures' extensions say.

    Raises UnreadableFileError where no sequence header can be read.
    """
    reading = Reading()
    found: dict[str, tuple[Mapping[str, int], str]] = {}
    for unit in (*coded.config, *coded.samples):
        for data in nal.units_behind_start_codes(unit.data):
            if data[0] in SLICES:
                break
            header = _header_of(data)
            if header is not None:
                name, read = header
                bits = reading.header(name, unit.where, data[1:], read)
                found.setdefault(name, (bits.named, unit.where))
    if "sequence header" not in found:
        raise no_header("sequence header", "no-sequence-header")
    known = {name: values for name, (values, _) in found.items()}
    for name, traits in STATED_BY.items():
        if name in found:
            place = f"{name} ({found[name][1]})"
            for trait, value in traits(known):
                reading.state(trait, value, place)
    return reading.finish()


def _header_of(unit: bytes) -> tuple[str, HeaderReader] | None:
    if unit[0] == SEQUENCE:
        return "sequence header", _sequence
    if unit[0] == EXTENSION and len(unit) > 1:
        return EXTENSIONS.get(unit[1] >> 4)
    return None


def _sequence(bits: BitReader) -> Stated:
    for name, width in (
        ("horizontal_size_value", 12),
        ("vertical_size_value", 12),
        ("aspect_ratio_information", 4),
        ("frame_rate_code", 4),
        ("bit_rate_value", 18),
    ):
        bits.u(width, name)
    yield from ()


def _sequence_extension(bits: BitReader) -> Stated:
    bits.skip(4)
    for name, width in (
        ("profile_and_level_indication", 8),
        ("progressive_sequence", 1),
        ("chroma_format", 2),
        ("horizontal_size_extension", 2),
        ("vertical_size_extension", 2),
        ("bit_rate_extension", 12),
        ("", 1),
        ("vbv_buffer_size_extension", 8),
        ("low_delay", 1),
        ("frame_rate_extension_n", 2),
        ("frame_rate_extension_d", 5),
    ):
        bits.u(width, name)
    yield from ()


def _display_extension(bits: BitReader) -> Stated:
    bits.skip(4)
    bits.u(3, "video_format")
    if bits.flag("colour_description"):
        yield "primaries", bits.u(8, "colour_primaries")
        yield "transfer", bits.u(8, "transfer_characteristics")
        yield "matrix", bits.u(8, "matrix_coefficients")
    bits.u(14, "display_horizontal_size")
    bits.skip(1)
    bits.u(14, "display_vertical_size")


def _picture_coding_extension(bits: BitReader) -> Stated:
    bits.skip(4 + 4 * 4)
    bits.u(2, "intra_dc_precision")
    bits.u(2, "picture_structure")
    bits.flag("top_field_first")
    bits.skip(5)
    bits.flag("repeat_first_field")
    bits.flag("chroma_420_type")
    bits.flag("progressive_frame")
    yield from ()


EXTENSIONS: dict[int, tuple[str, HeaderReader]] = {
    SEQUENCE_EXTENSION: ("sequence extension", _sequence_extension),
    DISPLAY_EXTENSION: ("sequence display extension", _display_extension),
    PICTURE_CODING_EXTENSION: ("picture coding extension", _picture_coding_extension),
}
Known = Mapping[str, Mapping[str, int]]


def _size(known: Known) -> tuple[int, int]:
    sequence, more = known["sequence header"], known.get("sequence extension", {})
    return (
        sequence["horizontal_size_value"] | more.get("horizontal_size_extension", 0) << 12,
        sequence["vertical_size_value"] | more.get("vertical_size_extension", 0) << 12,
    )


def _of_sequence(known: Known) -> Stated:
    sequence, more = known["sequence header"], known.get("sequence extension", {})
    if "bit_rate_value" not in sequence:
        return  # cut short
    width, height = _size(known)
    if width and height:
        yield "raster", (width, height)
        yield from _aspect(sequence["aspect_ratio_information"], known)
    rate = RATES.get(sequence["frame_rate_code"])
    if rate:
        n, d = more.get("frame_rate_extension_n", 0), more.get("frame_rate_extension_d", 0)
        rate *= Fraction(n + 1, d + 1)
        yield "frame_rate", (rate.numerator, rate.denominator)
    yield "bit_depth", 8  # the standard has no other


def _aspect(code: int, known: Known) -> Stated:
    if code == SQUARE:
        yield "pixel_aspect", (1, 1)
    if code not in SHAPES:
        return
    # The shape is that of the display area where one is stated, else of the whole picture.
    shown, (width, height) = known.get("sequence display extension", {}), _size(known)
    width = shown.get("display_horizontal_size") or width
    height = shown.get("display_vertical_size") or height
    h, v = SHAPES[code][0] * height, SHAPES[code][1] * width
    yield "pixel_aspect", (h // gcd(h, v), v // gcd(h, v))


def _of_extension(known: Known) -> Stated:
    more = known["sequence extension"]
    code = more.get("profile_and_level_indication")
    if code is not None:
        profile, level = ESCAPED.get(code, (PROFILES.get(code >> 4), LEVELS.get(code & 15)))
        if profile:
            yield "profile", profile
        if level:
            yield "level", level
    if more.get("chroma_format") in CHROMA_FORMATS and more["chroma_format"]:
        yield "chroma", CHROMA_FORMATS[more["chroma_format"]]
    if more.get("progressive_sequence"):
        yield "scan", "progressive"


def _of_picture(known: Known) -> Stated:
    picture = known["picture coding extension"]
    if known.get("sequence extension", {}).get("progressive_sequence", 1):
        return
    structure = picture.get("picture_structure")
    if picture.get("progressive_frame"):
        yield "scan", "progressive"
    elif structure in (TOP_FIELD, BOTTOM_FIELD):
        yield "scan", "top-first" if structure == TOP_FIELD else "bottom-first"
    elif "top_field_first" in picture:
        yield "scan", "top-first" if picture["top_field_first"] else "bottom-first"


STATED_BY = {
    "sequence header": _of_sequence,
    "sequence extension": _of_extension,
    "picture coding extension": _of_picture,
}
