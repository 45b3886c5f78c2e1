"""H.265 sequence parameter sets. Source: ITU-T H.265 7.3.2.2, 7.3.3 and E.2.1, in order."""

from collections.abc import Iterator
from fractions import Fraction

from ..model import TraitValue
from ..sampling import CHROMA_FORMATS
from .bits import BitReader, BitsEndError
from .vui import read_common_vui

NAL_SPS, NAL_SEI, NAL_SUFFIX_SEI = 33, 39, 40
SLICES = range(32)
HEADER_BYTES = 2
WINDOW_UNITS = {0: (1, 1), 1: (2, 2), 2: (2, 1), 3: (1, 1)}
PROFILES = {1: "Main", 2: "Main 10", 3: "Main Still Picture"}
MAX_REFERENCE_SETS = 64

# Range extensions (profile 4): flags 12bit 10bit 8bit 422 420 mono intra one_picture
# lower_bit_rate → name. Source: H.265 table A.2.
RANGE_EXTENSIONS = {
    0b111111001: "Monochrome",
    0b110111001: "Monochrome 10",
    0b100111001: "Monochrome 12",
    0b000111001: "Monochrome 16",
    0b100110001: "Main 12",
    0b110100001: "Main 4:2:2 10",
    0b100100001: "Main 4:2:2 12",
    0b111000001: "Main 4:4:4",
    0b110000001: "Main 4:4:4 10",
    0b100000001: "Main 4:4:4 12",
    0b111110101: "Main Intra",
    0b110110101: "Main 10 Intra",
    0b100110101: "Main 12 Intra",
    0b110100101: "Main 4:2:2 10 Intra",
    0b100100101: "Main 4:2:2 12 Intra",
    0b111000101: "Main 4:4:4 Intra",
    0b110000101: "Main 4:4:4 10 Intra",
    0b100000101: "Main 4:4:4 12 Intra",
    0b000000101: "Main 4:4:4 16 Intra",
    0b111000111: "Main 4:4:4 Still Picture",
}


def unit_type(unit: bytes) -> int:
    """Return the NAL unit type."""
    return unit[0] >> 1 & 63


def read_sps(rbsp: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State profile, level, tier and every trait that the parameter set gives.

    Raises BitsEndError where it is cut short; what came before is kept by the caller.
    """
    bits = BitReader(rbsp[HEADER_BYTES:])
    bits.skip(4)  # sps_video_parameter_set_id
    layers = bits.u(3) + 1
    bits.skip(1)  # sps_temporal_id_nesting_flag
    yield from _profile_tier_level(bits, layers)
    bits.ue()  # sps_seq_parameter_set_id
    chroma_format = bits.ue()
    if chroma_format == 3:
        bits.skip(1)  # separate_colour_plane_flag
    yield from _raster(bits, chroma_format)
    yield "bit_depth", 8 + bits.ue()
    if chroma_format in CHROMA_FORMATS:
        yield "chroma", CHROMA_FORMATS[chroma_format]
    bits.ue()  # bit_depth_chroma_minus8
    poc_bits = bits.ue() + 4
    _skip_coding_tools(bits, layers)
    _skip_reference_sets(bits)
    if bits.flag():  # long_term_ref_pics_present_flag
        for _ in range(min(bits.ue(), 32)):
            bits.skip(poc_bits + 1)
    bits.skip(2)  # temporal mvp, strong intra smoothing
    if bits.flag():  # vui_parameters_present_flag
        yield from read_common_vui(bits)
        yield from _rest_of_vui(bits)


def _profile_tier_level(bits: BitReader, layers: int) -> Iterator[tuple[str, TraitValue]]:
    bits.skip(2)  # general_profile_space
    tier, profile_idc = bits.flag(), bits.u(5)
    compatible = bits.u(32)
    progressive, interlaced = bits.flag(), bits.flag()
    bits.skip(2)  # non-packed, frame-only
    extension = bits.u(9)
    bits.skip(34 + 1)
    level_idc = bits.u(8)
    yield "profile", profile_name(profile_idc, compatible, extension)
    yield "tier", "high" if tier else "main"
    whole, tenth = divmod(level_idc, 30)
    yield "level", f"{whole}.{tenth // 3}" if tenth else str(whole)
    if progressive != interlaced:
        yield "scan", "progressive" if progressive else "interlaced"
    present = [(bits.flag(), bits.flag()) for _ in range(layers - 1)]
    if layers > 1:
        bits.skip(2 * (9 - layers))
    for has_profile, has_level in present:
        bits.skip(88 * has_profile + 8 * has_level)


def profile_name(profile_idc: int, compatible: int, extension: int) -> str:
    """Return the profile's name; `extension` holds the nine range extension flags."""
    if profile_idc == 4:
        return RANGE_EXTENSIONS.get(extension, "Format Range Extensions")
    if profile_idc == 0:  # some writers give only the compatibility flags
        profile_idc = next((i for i in (1, 2, 3) if compatible >> (31 - i) & 1), 0)
    return PROFILES.get(profile_idc, str(profile_idc))


def _raster(bits: BitReader, chroma_format: int) -> Iterator[tuple[str, TraitValue]]:
    width, height = bits.ue(), bits.ue()
    if bits.flag():  # conformance_window_flag
        left, right, top, bottom = (bits.ue() for _ in range(4))
        unit_x, unit_y = WINDOW_UNITS.get(chroma_format, (1, 1))
        width -= (left + right) * unit_x
        height -= (top + bottom) * unit_y
    if width > 0 and height > 0:
        yield "raster", (width, height)


def _skip_coding_tools(bits: BitReader, layers: int) -> None:
    all_layers = bits.flag()  # sps_sub_layer_ordering_info_present_flag
    for _ in range(layers if all_layers else 1):
        for _ in range(3):
            bits.ue()
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
    count = bits.ue()
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


def _rest_of_vui(bits: BitReader) -> Iterator[tuple[str, TraitValue]]:
    bits.skip(1)  # neutral_chroma_indication_flag
    if bits.flag():  # field_seq_flag
        yield "scan", "interlaced"
    bits.skip(1)  # frame_field_info_present_flag
    if bits.flag():  # default_display_window_flag
        for _ in range(4):
            bits.ue()
    if bits.flag():  # vui_timing_info_present_flag
        ticks, scale = bits.u(32), bits.u(32)
        if ticks and scale:
            rate = Fraction(scale, ticks)
            yield "frame_rate", (rate.numerator, rate.denominator)
