"""H.264 sequence parameter sets, field coding and picture timing.

Source: ITU-T H.264 7.3.2.1.1, 7.3.3, D.1.3 and E.1.1, E.1.2, in syntax order.
"""

from collections.abc import Mapping
from fractions import Fraction

from ..sampling import CHROMA_FORMATS
from .bits import BitReader
from .model import Stated
from .vui import read_common_vui

NAL_SPS, NAL_SEI, NAL_SUBSET_SPS = 7, 6, 15
SLICES = range(1, 6)
HEADER_BYTES = 1
CROP_UNITS = {0: (1, 1), 1: (2, 2), 2: (2, 1), 3: (1, 1)}
HIGH_PROFILES = {100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135}
MULTIVIEW_PROFILES = {118, 128}
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
SCANS = {
    # pic_struct → shown order. Source: H.264 table D-1; 7 and 8 repeat whole frames.
    0: "progressive",
    1: "top-first",
    2: "bottom-first",
    3: "top-first",
    4: "bottom-first",
    5: "top-first",
    6: "bottom-first",
    7: "progressive",
    8: "progressive",
}


def unit_type(unit: bytes) -> int:
    """Return the NAL unit type."""
    return unit[0] & 31


def is_base(_unit: bytes) -> bool:
    """Return whether the unit belongs to the base picture: other views have types of their own."""
    return True


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


def read_sps(bits: BitReader) -> Stated:
    """State profile, level and every trait that the parameter set gives, header skipped.

    Raises BitsEndError where it is cut short; what came before is kept by the caller.
    """
    profile_idc, constraints = bits.u(8, "profile_idc"), bits.u(6, "constraint_set_flags")
    bits.skip(2)
    level_idc = bits.u(8, "level_idc")
    yield "profile", profile_name(profile_idc, constraints)
    yield "level", level_name(level_idc, profile_idc, constraints)
    bits.ue("seq_parameter_set_id")
    chroma_format, depth = 1, 8
    if profile_idc in HIGH_PROFILES:
        chroma_format = bits.ue("chroma_format_idc")
        if chroma_format == 3:
            bits.flag("separate_colour_plane_flag")
        depth = 8 + bits.ue("bit_depth_luma_minus8")
        bits.ue("bit_depth_chroma_minus8")
        bits.flag("qpprime_y_zero_transform_bypass_flag")
        if bits.flag("seq_scaling_matrix_present_flag"):
            _skip_scaling_lists(bits, 12 if chroma_format == 3 else 8)
    yield "bit_depth", depth
    if chroma_format in CHROMA_FORMATS:
        yield "chroma", CHROMA_FORMATS[chroma_format]
    _skip_order_counts(bits)
    yield from _raster(bits, chroma_format)
    if bits.flag("vui_parameters_present_flag"):
        yield from read_common_vui(bits)
        yield from _rest_of_vui(bits)


def read_subset_sps(bits: BitReader) -> Stated:
    """State that a second view is coded beside the first. Source: H.264 annex H (MVC)."""
    if bits.u(8, "profile_idc") in MULTIVIEW_PROFILES:
        yield "stereo", "multiview"


def read_slice(bits: BitReader, sps: Mapping[str, int]) -> Stated:
    """State which field comes first where the picture is coded as fields. Source: 7.3.3."""
    if sps.get("frame_mbs_only_flag", 1):
        return
    bits.ue("first_mb_in_slice")
    bits.ue("slice_type")
    bits.ue("pic_parameter_set_id")
    if sps.get("separate_colour_plane_flag"):
        bits.u(2, "colour_plane_id")
    bits.u(min(sps.get("log2_max_frame_num_minus4", 0) + 4, 16), "frame_num")
    if bits.flag("field_pic_flag"):
        yield "scan", "bottom-first" if bits.flag("bottom_field_flag") else "top-first"


def read_pic_timing(bits: BitReader, sps: Mapping[str, int]) -> Stated:
    """State the shown order from pic_struct, which only the parameter set lets us reach."""
    if sps.get("nal_hrd_parameters_present_flag") or sps.get("vcl_hrd_parameters_present_flag"):
        bits.u(sps.get("cpb_removal_delay_length_minus1", 23) + 1, "cpb_removal_delay")
        bits.u(sps.get("dpb_output_delay_length_minus1", 23) + 1, "dpb_output_delay")
    if sps.get("pic_struct_present_flag"):
        structure = bits.u(4, "pic_struct")
        if structure in SCANS:
            yield "scan", SCANS[structure]


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
    bits.ue("log2_max_frame_num_minus4")
    poc_type = bits.ue("pic_order_cnt_type")
    if poc_type == 0:
        bits.ue("log2_max_pic_order_cnt_lsb_minus4")
    elif poc_type == 1:
        bits.flag("delta_pic_order_always_zero_flag")
        bits.se("offset_for_non_ref_pic")
        bits.se("offset_for_top_to_bottom_field")
        for _ in range(min(bits.ue("num_ref_frames_in_pic_order_cnt_cycle"), MAX_POC_CYCLE)):
            bits.se()
    bits.ue("max_num_ref_frames")
    bits.flag("gaps_in_frame_num_value_allowed_flag")


def _raster(bits: BitReader, chroma_format: int) -> Stated:
    width = (bits.ue("pic_width_in_mbs_minus1") + 1) * 16
    map_height = (bits.ue("pic_height_in_map_units_minus1") + 1) * 16
    frame_only = bits.flag("frame_mbs_only_flag")
    if not frame_only:
        bits.flag("mb_adaptive_frame_field_flag")
    bits.flag("direct_8x8_inference_flag")
    height = map_height * (1 if frame_only else 2)
    if bits.flag("frame_cropping_flag"):
        left, right, top, bottom = (
            bits.ue(f"frame_crop_{side}_offset") for side in ("left", "right", "top", "bottom")
        )
        unit_x, unit_y = CROP_UNITS.get(chroma_format, (1, 1))
        unit_y *= 1 if frame_only else 2
        width -= (left + right) * unit_x
        height -= (top + bottom) * unit_y
    if width > 0 and height > 0:
        yield "raster", (width, height)


def _rest_of_vui(bits: BitReader) -> Stated:
    if bits.flag("timing_info_present_flag"):
        ticks, scale = bits.u(32, "num_units_in_tick"), bits.u(32, "time_scale")
        bits.flag("fixed_frame_rate_flag")
        if ticks and scale:
            rate = Fraction(scale, 2 * ticks)
            yield "frame_rate", (rate.numerator, rate.denominator)
    buffers = [bits.flag(f"{kind}_hrd_parameters_present_flag") and _hrd(bits) for kind in HRDS]
    if any(buffers):
        bits.flag("low_delay_hrd_flag")
    bits.flag("pic_struct_present_flag")


HRDS = ("nal", "vcl")


def _hrd(bits: BitReader) -> bool:
    """Pass over hrd_parameters (E.1.2), keeping the lengths that picture timing needs."""
    count = min(bits.ue("cpb_cnt_minus1") + 1, 32)
    bits.u(4, "bit_rate_scale")
    bits.u(4, "cpb_size_scale")
    for _ in range(count):
        bits.ue("bit_rate_value_minus1")
        bits.ue("cpb_size_value_minus1")
        bits.flag("cbr_flag")
    bits.u(5, "initial_cpb_removal_delay_length_minus1")
    bits.u(5, "cpb_removal_delay_length_minus1")
    bits.u(5, "dpb_output_delay_length_minus1")
    bits.u(5, "time_offset_length")
    return True
