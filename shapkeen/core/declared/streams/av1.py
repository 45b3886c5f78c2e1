"""AV1 sequence headers and metadata. Source: AV1 specification 1.0.0 with errata 1, 5.5 and 5.8.

Conditional headers: functions in the standard's order, with its syntax-element names.
"""

from collections.abc import Iterator
from fractions import Fraction

from ..coded import CodedHeaders
from ..sampling import SUBSAMPLINGS
from ..st2086 import CONTENT_LIGHT, FIXED_POINT_DISPLAY, content_light, fixed_point_display
from .bits import BitReader
from .model import Reading, Stated, StreamReading, no_header
from .t35 import state_dynamic_hdr

OBU_SEQUENCE_HEADER, OBU_METADATA = 1, 5
HDR_CLL, HDR_MDCV, ITUT_T35 = 1, 2, 4
MAX_UNITS = 256
MAX_UNIT_BYTES = 4096
PROFILES = {0: "Main", 1: "High", 2: "Professional"}
SITES = {1: 0, 2: 2}
"""chroma_sample_position → H.273 Chroma420SampleLocType; 0 is unknown, 3 reserved."""
CHOOSE_BY_ITSELF = 2


def read_av1(coded: CodedHeaders) -> StreamReading:
    """Return what sequence headers and metadata say.

    Raises UnreadableFileError where no sequence header can be read.
    """
    reading = Reading()
    for unit in (*coded.config, *coded.samples):
        for kind, payload in units(unit.data):
            data = payload[:MAX_UNIT_BYTES]
            if kind == OBU_SEQUENCE_HEADER:
                reading.header("sequence header", unit.where, data, read_sequence_header)
            elif kind == OBU_METADATA:
                reading.header("metadata", unit.where, data, _metadata)
    if "raster" not in reading.said:
        raise no_header("sequence header", "no-sequence-header")
    return reading.finish()


def units(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Yield type and payload of each open bitstream unit. Source: AV1 5.3."""
    offset = 0
    for _ in range(MAX_UNITS):
        if offset >= len(data):
            return
        head = data[offset]
        kind, extension, has_size = head >> 3 & 15, head >> 2 & 1, head >> 1 & 1
        offset += 1 + extension
        size = len(data) - offset
        if has_size:
            number = leb128(data, offset)
            if number is None:
                return
            size, offset = number
        yield kind, data[offset : offset + size]
        offset += size


def leb128(data: bytes, offset: int) -> tuple[int, int] | None:
    """Return a little-endian base 128 number and the offset behind it. Source: AV1 4.10.5."""
    value = 0
    for i in range(8):
        if offset + i >= len(data):
            return None
        byte = data[offset + i]
        value |= (byte & 127) << 7 * i
        if not byte & 128:
            return value, offset + i + 1
    return None


def _metadata(bits: BitReader) -> Stated:
    kind = bits.u(8, "metadata_type")  # leb128; the defined types take one byte
    if kind == HDR_CLL:
        yield from content_light(bits.table(CONTENT_LIGHT))
    elif kind == HDR_MDCV:
        yield from fixed_point_display(bits.table(FIXED_POINT_DISPLAY))
    elif kind == ITUT_T35:
        yield from state_dynamic_hdr(bits)


def read_sequence_header(bits: BitReader) -> Stated:
    """State what a sequence header gives; raises BitsEndError where it is cut short."""
    profile = bits.u(3, "seq_profile")
    yield "profile", PROFILES.get(profile, str(profile))
    bits.flag("still_picture")
    reduced = bits.flag("reduced_still_picture_header")
    if reduced:
        yield from _level(bits.u(5, "seq_level_idx"), tier=False)
    else:
        yield from _timing_and_points(bits)
    width_bits = bits.u(4, "frame_width_bits_minus_1") + 1
    height_bits = bits.u(4, "frame_height_bits_minus_1") + 1
    width = bits.u(width_bits, "max_frame_width_minus_1") + 1
    yield "raster", (width, bits.u(height_bits, "max_frame_height_minus_1") + 1)
    _skip_tools(bits, reduced=reduced)
    yield from _color_config(bits, profile)
    bits.flag("film_grain_params_present")


def _level(index: int, *, tier: bool) -> Stated:
    major, minor = 2 + (index >> 2), index & 3
    yield "level", f"{major}.{minor}" if minor else str(major)
    yield "tier", "high" if tier else "main"


def _timing_and_points(bits: BitReader) -> Stated:
    """State rate and the first operating point's level; pass over the rest."""
    decoder_model, delay_bits = False, 0
    if bits.flag("timing_info_present_flag"):
        ticks = bits.u(32, "num_units_in_display_tick")
        scale = bits.u(32, "time_scale")
        if bits.flag("equal_picture_interval") and ticks and scale:
            rate = Fraction(scale, ticks * (bits.ue("num_ticks_per_picture_minus_1") + 1))
            yield "frame_rate", (rate.numerator, rate.denominator)
        decoder_model = bits.flag("decoder_model_info_present_flag")
        if decoder_model:
            delay_bits = bits.u(5) + 1
            bits.skip(32 + 5 + 5)
    initial_delay = bits.flag("initial_display_delay_present_flag")
    for point in range(bits.u(5, "operating_points_cnt_minus_1") + 1):
        bits.u(12, "operating_point_idc")
        index = bits.u(5, "seq_level_idx")
        tier = bits.flag("seq_tier") if index > 7 else False
        if point == 0:
            yield from _level(index, tier=tier)
        if decoder_model and bits.flag():
            bits.skip(2 * delay_bits + 1)
        if initial_delay and bits.flag():
            bits.skip(4)


def _skip_tools(bits: BitReader, *, reduced: bool) -> None:
    if not reduced and bits.flag():  # frame_id_numbers_present_flag
        bits.skip(4 + 3)
    bits.skip(3)  # superblock size, filter intra, intra edge filter
    if not reduced:
        bits.skip(4)  # interintra, masked, warped, dual filter
        order_hint = bits.flag()
        if order_hint:
            bits.skip(2)  # jnt comp, ref frame mvs
        force_tools = CHOOSE_BY_ITSELF if bits.flag() else bits.u(1)
        if force_tools > 0 and not bits.flag():
            bits.skip(1)  # seq_force_integer_mv
        if order_hint:
            bits.skip(3)
    bits.skip(3)  # superres, cdef, restoration


def _color_config(bits: BitReader, profile: int) -> Stated:
    high = bits.flag("high_bitdepth")
    twelve = bits.flag("twelve_bit") if profile == 2 and high else False
    depth = 12 if twelve else 10 if high else 8
    yield "bit_depth", depth
    mono = bits.flag("mono_chrome") if profile != 1 else False
    names = ("color_primaries", "transfer_characteristics", "matrix_coefficients")
    described = bits.flag("color_description_present_flag")
    codes = tuple(bits.u(8, name) for name in names) if described else None
    if codes:
        yield from zip(("primaries", "transfer", "matrix"), codes, strict=True)
    if mono:
        yield "chroma", "4:0:0"
        yield "range", "full" if bits.flag("color_range") else "limited"
        return
    if codes == (1, 13, 0):  # sRGB: no range bit is sent
        yield "chroma", "4:4:4"
        yield "range", "full"
        return
    yield "range", "full" if bits.flag("color_range") else "limited"
    across, down = _subsampling(bits, profile, depth)
    yield "chroma", SUBSAMPLINGS.get((across, down), "4:4:4")
    site = bits.u(2, "chroma_sample_position") if (across, down) == (1, 1) else 0
    if site in SITES:
        yield "chroma_location", SITES[site]
    bits.flag("separate_uv_delta_q")


def _subsampling(bits: BitReader, profile: int, depth: int) -> tuple[int, int]:
    if profile == 0:
        return 1, 1
    if profile == 1:
        return 0, 0
    if depth < 12:
        return 1, 0
    across = bits.u(1, "subsampling_x")
    return across, bits.u(1, "subsampling_y") if across else 0
