"""H.264 sequence parameter sets. Source: ITU-T H.264 7.3.2.1.1 and E.1.1, in syntax order."""

from collections.abc import Iterator
from fractions import Fraction

from ..model import TraitValue
from ..sampling import CHROMA_FORMATS
from .bits import BitReader
from .vui import read_common_vui

NAL_SPS, NAL_SEI = 7, 6
SLICES = range(1, 6)
HEADER_BYTES = 1
CROP_UNITS = {0: (1, 1), 1: (2, 2), 2: (2, 1), 3: (1, 1)}
HIGH_PROFILES = {100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135}
PROFILES = {
    66: "Baseline",
    77: "Main",
    88: "Extended",
    100: "High",
    110: "High 10",
    122: "High 4:2:2",
    244: "High 4:4:4 Predictive",
    44: "CAVLC 4:4:4 Intra",
    118: "Multiview High",
    128: "Stereo High",
}
MAX_POC_CYCLE = 255


def unit_type(unit: bytes) -> int:
    """Return the NAL unit type."""
    return unit[0] & 31


def profile_name(profile_idc: int, constraints: int) -> str:
    """Return the profile by its name; `constraints` are flags 0 to 5, flag 0 highest."""
    name = PROFILES.get(profile_idc, str(profile_idc))
    flag = [bool(constraints >> (5 - i) & 1) for i in range(6)]
    if profile_idc == 66 and flag[1]:
        return "Constrained Baseline"
    if profile_idc == 100 and flag[4]:
        return "Constrained High" if flag[5] else "Progressive High"
    if profile_idc in (110, 122, 244) and flag[3]:
        return f"{name.removesuffix(' Predictive')} Intra"
    return name


def level_name(level_idc: int, profile_idc: int, constraints: int) -> str:
    """Return the level in decimal form; 1b is the one that a flag tells from 1.1."""
    if level_idc == 9 or (level_idc == 11 and profile_idc in (66, 77, 88) and constraints & 4):
        return "1b"
    whole, tenth = divmod(level_idc, 10)
    return f"{whole}.{tenth}" if tenth else str(whole)


def read_sps(rbsp: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State profile, level and every trait that the parameter set gives, header skipped.

    Raises BitsEndError where it is cut short; what came before is kept by the caller.
    """
    bits = BitReader(rbsp[HEADER_BYTES:])
    profile_idc, constraints = bits.u(8), bits.u(6)
    bits.skip(2)
    level_idc = bits.u(8)
    yield "profile", profile_name(profile_idc, constraints)
    yield "level", level_name(level_idc, profile_idc, constraints)
    bits.ue()  # seq_parameter_set_id
    chroma_format, depth = 1, 8
    if profile_idc in HIGH_PROFILES:
        chroma_format = bits.ue()
        if chroma_format == 3:
            bits.skip(1)  # separate_colour_plane_flag
        depth = 8 + bits.ue()
        bits.ue()  # bit_depth_chroma_minus8
        bits.skip(1)  # qpprime_y_zero_transform_bypass_flag
        if bits.flag():
            _skip_scaling_lists(bits, 12 if chroma_format == 3 else 8)
    yield "bit_depth", depth
    if chroma_format in CHROMA_FORMATS:
        yield "chroma", CHROMA_FORMATS[chroma_format]
    _skip_order_counts(bits)
    yield from _raster(bits, chroma_format)
    if bits.flag():  # vui_parameters_present_flag
        yield from read_common_vui(bits)
        yield from _timing(bits)


def _skip_scaling_lists(bits: BitReader, count: int) -> None:
    for i in range(count):
        if not bits.flag():
            continue
        last, following = 8, 8
        for _ in range(16 if i < 6 else 64):
            if following:
                following = (last + bits.se()) % 256
            last = following or last


def _skip_order_counts(bits: BitReader) -> None:
    bits.ue()  # log2_max_frame_num_minus4
    poc_type = bits.ue()
    if poc_type == 0:
        bits.ue()
    elif poc_type == 1:
        bits.skip(1)
        bits.se()
        bits.se()
        for _ in range(min(bits.ue(), MAX_POC_CYCLE)):
            bits.se()
    bits.ue()  # max_num_ref_frames
    bits.skip(1)  # gaps_in_frame_num_value_allowed_flag


def _raster(bits: BitReader, chroma_format: int) -> Iterator[tuple[str, TraitValue]]:
    width, map_height = (bits.ue() + 1) * 16, (bits.ue() + 1) * 16
    frame_only = bits.flag()
    if not frame_only:
        bits.skip(1)  # mb_adaptive_frame_field_flag
    bits.skip(1)  # direct_8x8_inference_flag
    height = map_height * (1 if frame_only else 2)
    if bits.flag():  # frame_cropping_flag
        left, right, top, bottom = (bits.ue() for _ in range(4))
        unit_x, unit_y = CROP_UNITS.get(chroma_format, (1, 1))
        unit_y *= 1 if frame_only else 2
        width -= (left + right) * unit_x
        height -= (top + bottom) * unit_y
    if width > 0 and height > 0:
        yield "raster", (width, height)


def _timing(bits: BitReader) -> Iterator[tuple[str, TraitValue]]:
    if bits.flag():  # timing_info_present_flag
        ticks, scale = bits.u(32), bits.u(32)
        if ticks and scale:
            rate = Fraction(scale, 2 * ticks)
            yield "frame_rate", (rate.numerator, rate.denominator)
