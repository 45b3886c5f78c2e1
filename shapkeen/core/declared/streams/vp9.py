"""VP9 uncompressed headers. Source: VP9 bitstream specification 0.6, 6.2 and 7.2."""

from collections.abc import Iterator

from ...errors import UnreadableFileError
from ..coded import CodedHeaders
from ..model import Said, TraitValue
from ..sampling import SUBSAMPLINGS
from .bits import BitReader, BitsEndError
from .model import StreamReading

SYNC = 0x498342
MATRICES = {0: 2, 1: 5, 2: 1, 3: 6, 4: 7, 5: 9, 7: 0}
"""color_space → H.273 matrix; 0 is "unknown", 6 reserved."""
RGB = 7


def read_vp9(coded: CodedHeaders) -> StreamReading:
    """Return what the first key frame's header says.

    Raises UnreadableFileError where no key frame header can be read.
    """
    for sample in coded.samples:
        try:
            found = dict(_header(BitReader(sample.data[:64])))
        except BitsEndError:
            continue
        if "raster" in found:
            where = f"uncompressed header ({sample.where})"
            profile = str(found.pop("profile"))
            said = {trait: Said(value=value, where=where) for trait, value in found.items()}
            return StreamReading(witness=said, profile=profile)
    raise UnreadableFileError(
        "No key frame header can be read in the coded picture, so no decoder could start. "
        "Export the file again.",
        code="no-frame-header",
        where="stream",
    )


def _header(bits: BitReader) -> Iterator[tuple[str, TraitValue]]:
    if bits.u(2) != 2:  # frame_marker
        return
    low, high = bits.u(1), bits.u(1)
    profile = high << 1 | low
    if profile == 3:
        bits.skip(1)
    if bits.flag() or bits.flag():  # show_existing_frame; frame_type, 0 for a key frame
        return
    bits.skip(2)  # show_frame, error_resilient_mode
    if bits.u(24) != SYNC:
        return
    yield "profile", profile
    yield "bit_depth", (12 if bits.flag() else 10) if profile >= 2 else 8
    yield from _colour(bits, profile)
    yield "raster", (bits.u(16) + 1, bits.u(16) + 1)


def _colour(bits: BitReader, profile: int) -> Iterator[tuple[str, TraitValue]]:
    space = bits.u(3)
    if space in MATRICES:
        yield "matrix", MATRICES[space]
    if space == RGB:
        yield "range", "full"
        yield "chroma", "4:4:4"
        if profile in (1, 3):
            bits.skip(1)
        return
    yield "range", "full" if bits.flag() else "limited"
    across, down = (bits.u(1), bits.u(1)) if profile in (1, 3) else (1, 1)
    if profile in (1, 3):
        bits.skip(1)
    if (across, down) in SUBSAMPLINGS:
        yield "chroma", SUBSAMPLINGS[across, down]
