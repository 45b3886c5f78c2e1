"""VP9 uncompressed headers. Source: VP9 bitstream specification 0.6, 6.2 and 7.2."""

from ..sampling import SUBSAMPLINGS
from .bits import BitReader
from .model import Stated

FRAME_MARKER = 2
SYNC = 0x498342
MATRICES = {0: 2, 1: 5, 2: 1, 3: 6, 4: 7, 5: 9, 7: 0}
"""color_space → H.273 matrix; 0 is "unknown", 6 reserved."""
RGB = 7


def read_header(bits: BitReader) -> Stated:
    """State what a key frame's header gives; other frames say nothing."""
    if bits.u(2, "frame_marker") != FRAME_MARKER:
        return
    low, high = bits.u(1, "profile_low_bit"), bits.u(1, "profile_high_bit")
    profile = high << 1 | low
    if profile == 3:
        bits.skip(1)
    if bits.flag("show_existing_frame") or bits.flag("frame_type"):  # a key frame has 0
        return
    bits.flag("show_frame")
    bits.flag("error_resilient_mode")
    if bits.u(24) != SYNC:
        return
    yield "profile", str(profile)
    yield "bit_depth", (12 if bits.flag("ten_or_twelve_bit") else 10) if profile >= 2 else 8
    yield from _colour(bits, profile)
    width = bits.u(16, "frame_width_minus_1") + 1
    yield "raster", (width, bits.u(16, "frame_height_minus_1") + 1)
    if bits.flag("render_and_frame_size_different"):
        bits.u(16, "render_width_minus_1")
        bits.u(16, "render_height_minus_1")


def _colour(bits: BitReader, profile: int) -> Stated:
    space = bits.u(3, "color_space")
    if space in MATRICES:
        yield "matrix", MATRICES[space]
    if space == RGB:
        yield "range", "full"
        yield "chroma", "4:4:4"
        if profile in (1, 3):
            bits.skip(1)
        return
    yield "range", "full" if bits.flag("color_range") else "limited"
    across, down = (
        (bits.u(1, "subsampling_x"), bits.u(1, "subsampling_y")) if profile in (1, 3) else (1, 1)
    )
    if profile in (1, 3):
        bits.skip(1)
    if (across, down) in SUBSAMPLINGS:
        yield "chroma", SUBSAMPLINGS[across, down]
