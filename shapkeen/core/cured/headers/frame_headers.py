"""Frame headers of fixed size that say wished codes: the same bytes as before but for those.

Source: SMPTE RDD 36:2015 5.1 (ProRes), VP9 bitstream specification 0.6 6.2; by the readers of
declared/streams.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ...declared.streams import prores, vp9
from ...declared.streams.bits import BitReader, BitsEndError
from ..wishes import COLOUR_CODES, Wishes

UNSPECIFIED = 2
VP9_BYTES = 16
"""More than a key frame's header has up to its size."""


@dataclass(frozen=True, slots=True)
class FrameHeader:
    """How one codec's frame headers are rewritten. size: bytes that are enough of a frame.

    said: returns those bytes as wished; the same where no header stands there. levelled: wishes
    after which two headers that differ in nothing else are alike.
    """

    size: int
    levelled: Wishes
    said: Callable[[bytes, Wishes], bytes]

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


FRAME_HEADERS = {
    "vp9": FrameHeader(VP9_BYTES, {"matrix": 1, "range": "limited"}, _vp9),
    "prores": FrameHeader(prores.FRAME.size_bytes, dict.fromkeys(COLOUR_CODES, 1), _prores),
}
