"""Video usability information, as far as H.264 and H.265 share it.

Source: ITU-T H.264 E.1.1, H.265 E.2.1; aspect table: H.273 table 5 (H.264 table E-1).
"""

from collections.abc import Iterator
from math import gcd

from ..model import TraitValue
from .bits import BitReader

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


def read_common_vui(bits: BitReader) -> Iterator[tuple[str, TraitValue]]:
    """State pixel aspect, range, colour codes and chroma location; leaves off after those."""
    if bits.flag():  # aspect_ratio_info_present_flag
        yield from _aspect(bits)
    if bits.flag():  # overscan_info_present_flag
        bits.skip(1)
    if bits.flag():  # video_signal_type_present_flag
        bits.skip(3)  # video_format
        yield "range", "full" if bits.flag() else "limited"
        if bits.flag():  # colour_description_present_flag
            for trait in ("primaries", "transfer", "matrix"):
                yield trait, bits.u(8)
    if bits.flag():  # chroma_loc_info_present_flag
        top = bits.ue()
        bits.ue()  # bottom field
        if top <= 5:
            yield "chroma_location", top


def _aspect(bits: BitReader) -> Iterator[tuple[str, TraitValue]]:
    idc = bits.u(8)
    width, height = SAMPLE_ASPECTS.get(idc, (0, 0))
    if idc == EXTENDED_SAR:
        width, height = bits.u(16), bits.u(16)
    if width and height:  # 0 is "unspecified": silence
        divisor = gcd(width, height)
        yield "pixel_aspect", (width // divisor, height // divisor)
