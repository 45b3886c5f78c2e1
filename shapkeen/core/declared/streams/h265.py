"""H.265 video and sequence parameter sets, and picture timing.

Source: ITU-T H.265 7.3.2.1, 7.3.2.2, D.2.3 and E.2.1, in order.
"""

from collections.abc import Mapping
from fractions import Fraction

from ..sampling import CHROMA_FORMATS
from .bits import BitReader, BitsEndError
from .h265_profile import read_profile_tier_level
from .model import FACTS, Stated
from .vui import read_common_vui

NAL_VPS, NAL_SPS, NAL_SEI, NAL_SUFFIX_SEI = 32, 33, 39, 40
SLICES = range(32)
HEADER_BYTES = 2
WINDOW_UNITS = {0: (1, 1), 1: (2, 2), 2: (2, 1), 3: (1, 1)}
SIDES = ("left", "right", "top", "bottom")
MAX_REFERENCE_SETS = 64
MAX_LAYER_SETS = 64
SCANS = {
    # pic_struct → shown order. Source: H.265 table D.2; 9 to 12 are fields paired with another.
    0: "progressive",
    1: "top-first",
    2: "bottom-first",
    3: "top-first",
    4: "bottom-first",
    5: "top-first",
    6: "bottom-first",
    7: "progressive",
    8: "progressive",
    9: "bottom-first",
    10: "top-first",
    11: "top-first",
    12: "bottom-first",
}


def unit_type(unit: bytes) -> int:
    """Return the NAL unit type."""
    return unit[0] >> 1 & 63


def is_base(unit: bytes) -> bool:
    """Return whether the unit belongs to the base layer; others have another syntax."""
    return (unit[0] & 1) == 0 and unit[1] >> 3 == 0


def read_vps(bits: BitReader) -> Stated:
    """State the rate from the video parameter set; its profile and level are the SPS's to say."""
    bits.u(4, "vps_video_parameter_set_id")
    bits.skip(2)  # base layer internal, available
    bits.u(6, "vps_max_layers_minus1")
    layers = bits.u(3, "vps_max_sub_layers_minus1") + 1
    bits.flag("vps_temporal_id_nesting_flag")
    bits.skip(16)
    for trait, value in read_profile_tier_level(bits, layers):
        if trait not in FACTS:
            yield trait, value
    _skip_ordering(bits, layers, "vps_sub_layer_ordering_info_present_flag")
    largest = bits.u(6, "vps_max_layer_id")
    sets = bits.ue("vps_num_layer_sets_minus1")
    if sets > MAX_LAYER_SETS:
        raise BitsEndError(f"{sets} layer sets")
    bits.skip(sets * (largest + 1))
    if bits.flag("vps_timing_info_present_flag"):
        yield from _rate(bits, "vps")


def read_sps(bits: BitReader) -> Stated:
    """State profile, level, tier and every trait that the parameter set gives.

    Raises BitsEndError where it is cut short; what came before is kept by the caller.
    """
    bits.u(4, "sps_video_parameter_set_id")
    layers = bits.u(3, "sps_max_sub_layers_minus1") + 1
    bits.flag("sps_temporal_id_nesting_flag")
    yield from read_profile_tier_level(bits, layers)
    bits.ue("sps_seq_parameter_set_id")
    chroma_format = bits.ue("chroma_format_idc")
    if chroma_format == 3:
        bits.flag("separate_colour_plane_flag")
    yield from _raster(bits, chroma_format)
    yield "bit_depth", 8 + bits.ue("bit_depth_luma_minus8")
    if chroma_format in CHROMA_FORMATS:
        yield "chroma", CHROMA_FORMATS[chroma_format]
    bits.ue("bit_depth_chroma_minus8")
    poc_bits = bits.ue("log2_max_pic_order_cnt_lsb_minus4") + 4
    _skip_coding_tools(bits, layers)
    _skip_reference_sets(bits)
    if bits.flag("long_term_ref_pics_present_flag"):
        for _ in range(min(bits.ue("num_long_term_ref_pics_sps"), 32)):
            bits.skip(poc_bits + 1)
    bits.flag("sps_temporal_mvp_enabled_flag")
    bits.flag("strong_intra_smoothing_enabled_flag")
    if bits.flag("vui_parameters_present_flag"):
        yield from read_common_vui(bits)
        yield from _rest_of_vui(bits)


def read_pic_timing(bits: BitReader, sps: Mapping[str, int]) -> Stated:
    """State the shown order from pic_struct and source_scan_type."""
    if not sps.get("frame_field_info_present_flag"):
        return
    structure = bits.u(4, "pic_struct")
    bits.u(2, "source_scan_type")
    if structure in SCANS:
        yield "scan", SCANS[structure]


def _rate(bits: BitReader, prefix: str) -> Stated:
    ticks, scale = bits.u(32, f"{prefix}_num_units_in_tick"), bits.u(32, f"{prefix}_time_scale")
    if ticks and scale:
        rate = Fraction(scale, ticks)
        yield "frame_rate", (rate.numerator, rate.denominator)


def _raster(bits: BitReader, chroma_format: int) -> Stated:
    width, height = bits.ue("pic_width_in_luma_samples"), bits.ue("pic_height_in_luma_samples")
    if bits.flag("conformance_window_flag"):
        left, right, top, bottom = (bits.ue(f"conf_win_{side}_offset") for side in SIDES)
        unit_x, unit_y = WINDOW_UNITS.get(chroma_format, (1, 1))
        width -= (left + right) * unit_x
        height -= (top + bottom) * unit_y
    if width > 0 and height > 0:
        yield "raster", (width, height)


def _skip_ordering(bits: BitReader, layers: int, name: str) -> None:
    for _ in range(layers if bits.flag(name) else 1):
        for _ in range(3):
            bits.ue()


def _skip_coding_tools(bits: BitReader, layers: int) -> None:
    _skip_ordering(bits, layers, "sps_sub_layer_ordering_info_present_flag")
    for _ in range(6):  # coding and transform block sizes, hierarchy depths
        bits.ue()
    if bits.flag() and bits.flag():  # scaling lists enabled, and their data present
        _skip_scaling_lists(bits)
    bits.skip(2)  # amp, sample adaptive offset
    if bits.flag():  # pcm_enabled_flag
        bits.skip(8)
        bits.ue()
        bits.ue()
        bits.skip(1)


def _skip_scaling_lists(bits: BitReader) -> None:
    for size in range(4):
        for _ in range(0, 6, 3 if size == 3 else 1):
            if not bits.flag():  # scaling_list_pred_mode_flag
                bits.ue()
                continue
            if size > 1:
                bits.se()  # scaling_list_dc_coef_minus8
            for _ in range(min(64, 1 << (4 + 2 * size))):
                bits.se()


def _skip_reference_sets(bits: BitReader) -> None:
    """Pass over st_ref_pic_set (7.3.7): each may be coded as a change of the one before."""
    count = bits.ue("num_short_term_ref_pic_sets")
    if count > MAX_REFERENCE_SETS:
        raise BitsEndError(f"{count} short-term reference picture sets; 64 are the most")
    pictures = 0
    for number in range(count):
        if number and bits.flag():  # inter_ref_pic_set_prediction_flag
            bits.skip(1)  # delta_rps_sign
            bits.ue()  # abs_delta_rps_minus1
            kept = 0
            for _ in range(pictures + 1):
                used = bits.flag()
                kept += used or bits.flag()
            pictures = kept
            continue
        pictures = bits.ue() + bits.ue()
        if pictures > 32:
            raise BitsEndError(f"{pictures} pictures in one reference set")
        for _ in range(pictures):
            bits.ue()
            bits.skip(1)


def _rest_of_vui(bits: BitReader) -> Stated:
    bits.flag("neutral_chroma_indication_flag")
    if bits.flag("field_seq_flag"):
        yield "scan", "interlaced"
    bits.flag("frame_field_info_present_flag")
    if bits.flag("default_display_window_flag"):
        for side in SIDES:
            bits.ue(f"def_disp_win_{side}_offset")
    if bits.flag("vui_timing_info_present_flag"):
        yield from _rate(bits, "vui")
