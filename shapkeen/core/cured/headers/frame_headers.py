"""Frame headers of fixed size that say wished codes: the same bytes as before but for those.

Source: SMPTE RDD 36:2015 5.1 (ProRes), VP9 bitstream specification 0.6 6.2, SMPTE ST 2019-1 (VC-3,
from memory), ITU-T H.262 (mpeg2.py); by the readers of declared/streams.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ...declared.streams import prores, vc3, vp9
from ...declared.streams.bits import BitReader, BitsEndError
from ..wishes import COLOUR_CODES, Wishes
from .mpeg2 import MOST_BYTES, said_in_sequence

UNSPECIFIED = 2
VP9_BYTES = 16
"""More than a key frame's header has up to its size."""


@dataclass(frozen=True, slots=True)
class FrameHeader:
    """How one codec's frame headers are rewritten. size: bytes that are enough of a frame.

    said: returns those bytes as wished; the same where no header stands there. levelled: wishes
    after which two headers that differ in nothing else are alike. in_configuration: the wrapper
    keeps one more of them beside the track.
    """

    size: int
    levelled: Wishes
    said: Callable[[bytes, Wishes], bytes]
    in_configuration: bool = False

    @property
    def traits(self) -> frozenset[str]:
        """Return the traits that the headers state."""
        return frozenset(self.levelled)


def _prores(head: bytes, wishes: Wishes) -> bytes:
    fields: Mapping[str, int] = prores.FRAME.read(head)
    if fields["identifier"] != prores.IDENTIFIER:
        return head
    wished = {
        trait: value if isinstance(value := wishes[trait], int) else UNSPECIFIED
        for trait in COLOUR_CODES
        if trait in wishes
    }
    return prores.FRAME.write(**dict(fields) | wished)


def _vp9(head: bytes, wishes: Wishes) -> bytes:
    """Return a key frame's header with its colour space and range; other frames have neither.

    A space that codes nothing else (RGB) is neither left nor entered: its syntax is another one.
    """
    bits = BitReader(head)
    try:
        for _ in vp9.read_header(bits):
            pass
    except BitsEndError:
        return head
    marks, own = bits.marks, bits.named
    if "color_range" not in marks:
        return head
    number = int.from_bytes(head, "big")
    spaces = {matrix: space for space, matrix in vp9.MATRICES.items() if space != vp9.RGB}
    wished = wishes.get("matrix", -1)
    code = wished if isinstance(wished, int) else UNSPECIFIED
    space = spaces.get(code, own["color_space"])
    ranges = {"limited": 0, "full": 1}
    full = ranges.get(str(wishes.get("range")), own["color_range"])
    for name, width, value in (("color_space", 3, space), ("color_range", 1, full)):
        shift = len(head) * 8 - marks[name] - width
        number = number & ~(((1 << width) - 1) << shift) | value << shift
    return number.to_bytes(len(head), "big")


def _vc3(head: bytes, wishes: Wishes) -> bytes:
    """Return a frame's header with its colour volume: of the kind that has one, and of whole
    frames, for a field pair has a second header further on."""
    fields: Mapping[str, int] = vc3.FRAME.read(head)
    whole = fields["field_flags"] == vc3.PROGRESSIVE_FRAME
    if "matrix" not in wishes or not whole or fields["compression_id"] not in vc3.PROFILES:
        return head
    volumes = {matrix: volume for volume, matrix in vc3.COLOUR_MATRICES.items()}
    wished = wishes["matrix"]
    elsewhere = volumes[UNSPECIFIED]
    volume = volumes.get(wished, elsewhere) if isinstance(wished, int) else elsewhere
    return vc3.FRAME.write(**dict(fields) | {"colour_volume": volume})


def said_in_configuration(body: bytes, codec: str, wishes: Wishes | None = None) -> bytes:
    """Return a track's configuration with its header saying what is wished, or levelled if None."""
    header = FRAME_HEADERS.get(codec)
    if header is None or not header.in_configuration:
        return body
    return header.said(body, header.levelled if wishes is None else wishes)


FRAME_HEADERS = {
    "vc3": FrameHeader(vc3.FRAME.size_bytes, {"matrix": 1}, _vc3),
    "mpeg2": FrameHeader(
        MOST_BYTES,
        {**dict.fromkeys(COLOUR_CODES, 1), "pixel_aspect": (1, 1)},
        said_in_sequence,
        in_configuration=True,
    ),
    "vp9": FrameHeader(VP9_BYTES, {"matrix": 1, "range": "limited"}, _vp9),
    "prores": FrameHeader(prores.FRAME.size_bytes, dict.fromkeys(COLOUR_CODES, 1), _prores),
}
