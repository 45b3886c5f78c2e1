"""MPEG-4 part 2 headers. Source: ISO/IEC 14496-2 6.2.2 to 6.2.5 (from memory)."""

from math import gcd

from ..coded import CodedHeaders
from ..sampling import CHROMA_FORMATS
from . import nal
from .bits import BitReader
from .model import HeaderReader, Reading, Stated, StreamReading, no_header

SEQUENCE, VISUAL_OBJECT, VOP = 0xB0, 0xB5, 0xB6
LAYERS = range(0x20, 0x30)
VIDEO_TYPE = 1
EXTENDED_ASPECT = 15
ASPECTS = {1: (1, 1), 2: (12, 11), 3: (10, 11), 4: (16, 11), 5: (40, 33)}
RECTANGULAR, GRAYSCALE = 0, 3
PROFILES = {
    # profile_and_level_indication → profile, level
    0x01: ("Simple", "1"),
    0x02: ("Simple", "2"),
    0x03: ("Simple", "3"),
    0x08: ("Simple", "0"),
    **{0xF0 + level: ("Advanced Simple", str(level)) for level in range(6)},
}
PRECISION_BITS = 4


def read_mpeg4(coded: CodedHeaders) -> StreamReading:
    """Return what the visual object and its layer say.

    Raises UnreadableFileError where no layer header can be read.
    """
    reading = Reading()
    for unit in (*coded.config, *coded.samples):
        for data in nal.units_behind_start_codes(unit.data):
            if data[0] == VOP:
                break
            header = _header_of(data[0])
            if header is not None:
                reading.header(header[0], unit.where, data[1:], header[1])
    if "raster" not in reading.said:
        raise no_header("video object layer", "no-sequence-header")
    return reading.finish()


def _header_of(code: int) -> tuple[str, HeaderReader] | None:
    if code in LAYERS:
        return "video object layer", _layer
    return HEADERS.get(code)


def _sequence(bits: BitReader) -> Stated:
    known = PROFILES.get(bits.u(8, "profile_and_level_indication"))
    if known:
        yield from zip(("profile", "level"), known, strict=True)


def _visual_object(bits: BitReader) -> Stated:
    if bits.flag("is_visual_object_identifier"):
        bits.u(4, "visual_object_verid")
        bits.u(3, "visual_object_priority")
    if bits.u(4, "visual_object_type") != VIDEO_TYPE or not bits.flag("video_signal_type"):
        return
    bits.u(3, "video_format")
    yield "range", "full" if bits.flag("video_range") else "limited"
    if bits.flag("colour_description"):
        yield "primaries", bits.u(8, "colour_primaries")
        yield "transfer", bits.u(8, "transfer_characteristics")
        yield "matrix", bits.u(8, "matrix_coefficients")


HEADERS: dict[int, tuple[str, HeaderReader]] = {
    SEQUENCE: ("visual object sequence", _sequence),
    VISUAL_OBJECT: ("visual object", _visual_object),
}


def _layer(bits: BitReader) -> Stated:
    bits.flag("random_accessible_vol")
    bits.u(8, "video_object_type_indication")
    version = 1
    if bits.flag("is_object_layer_identifier"):
        version = bits.u(4, "video_object_layer_verid")
        bits.u(3, "video_object_layer_priority")
    yield from _aspect(bits)
    if bits.flag("vol_control_parameters"):
        chroma = bits.u(2, "chroma_format")
        if chroma:
            yield "chroma", CHROMA_FORMATS[chroma]
        bits.flag("low_delay")
        if bits.flag("vbv_parameters"):
            bits.skip(79)
    shape = bits.u(2, "video_object_layer_shape")
    if shape == GRAYSCALE and version != 1:
        bits.skip(4)
    bits.skip(1)
    yield from _rate(bits)
    if shape != RECTANGULAR:
        return
    bits.skip(1)
    width = bits.u(13, "video_object_layer_width")
    bits.skip(1)
    height = bits.u(13, "video_object_layer_height")
    bits.skip(1)
    if width and height:
        yield "raster", (width, height)
    yield "scan", "interlaced" if bits.flag("interlaced") else "progressive"
    yield from _depth(bits, version)


def _aspect(bits: BitReader) -> Stated:
    code = bits.u(4, "aspect_ratio_info")
    h, v = ASPECTS.get(code, (0, 0))
    if code == EXTENDED_ASPECT:
        h, v = bits.u(8, "par_width"), bits.u(8, "par_height")
    if h and v:
        yield "pixel_aspect", (h // gcd(h, v), v // gcd(h, v))


def _rate(bits: BitReader) -> Stated:
    """State the rate where every picture takes the same time."""
    resolution = bits.u(16, "vop_time_increment_resolution")
    bits.skip(1)
    if bits.flag("fixed_vop_rate"):
        increment = bits.u(max((resolution - 1).bit_length(), 1), "fixed_vop_time_increment")
        if increment and resolution:
            divisor = gcd(resolution, increment)
            yield "frame_rate", (resolution // divisor, increment // divisor)


def _depth(bits: BitReader, version: int) -> Stated:
    bits.flag("obmc_disable")
    if bits.u(1 if version == 1 else 2, "sprite_enable"):
        return  # the sprite's own fields stand before the depth
    if not bits.flag("not_8_bit"):
        yield "bit_depth", 8
        return
    bits.u(PRECISION_BITS, "quant_precision")
    yield "bit_depth", bits.u(4, "bits_per_pixel")
