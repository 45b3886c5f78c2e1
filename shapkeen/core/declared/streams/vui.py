"""Video usability information, as far as H.264 and H.265 share it.

Source: ITU-T H.264 E.1.1, H.265 E.2.1; aspect table: H.273 table 5 (H.264 table E-1).
"""

from math import gcd

from .bits import BitReader
from .model import Stated

EXTENDED_SAR = 255
SAMPLE_ASPECTS = {
    1: (1, 1),
    2: (12, 11),
    3: (10, 11),
    4: (16, 11),
    5: (40, 33),
    6: (24, 11),
    7: (20, 11),
    8: (32, 11),
    9: (80, 33),
    10: (18, 11),
    11: (15, 11),
    12: (64, 33),
    13: (160, 99),
    14: (4, 3),
    15: (3, 2),
    16: (2, 1),
}


def read_common_vui(bits: BitReader) -> Stated:
    """State pixel aspect, range, colour codes and chroma location; leaves off after those."""
    if bits.flag("aspect_ratio_info_present_flag"):
        yield from _aspect(bits)
    if bits.flag("overscan_info_present_flag"):
        bits.flag("overscan_appropriate_flag")
    if bits.flag("video_signal_type_present_flag"):
        bits.u(3, "video_format")
        yield "range", "full" if bits.flag("video_full_range_flag") else "limited"
        if bits.flag("colour_description_present_flag"):
            yield "primaries", bits.u(8, "colour_primaries")
            yield "transfer", bits.u(8, "transfer_characteristics")
            yield "matrix", bits.u(8, "matrix_coefficients")
    if bits.flag("chroma_loc_info_present_flag"):
        top = bits.ue("chroma_sample_loc_type_top_field")
        bits.ue("chroma_sample_loc_type_bottom_field")
        if top <= 5:
            yield "chroma_location", top


def _aspect(bits: BitReader) -> Stated:
    idc = bits.u(8, "aspect_ratio_idc")
    width, height = SAMPLE_ASPECTS.get(idc, (0, 0))
    if idc == EXTENDED_SAR:
        width, height = bits.u(16, "sar_width"), bits.u(16, "sar_height")
    if width and height:  # 0 is "unspecified": silence
        divisor = gcd(width, height)
        yield "pixel_aspect", (width // divisor, height // divisor)
