"""Frame headers of fixed size that say wished codes: the same bytes as before but for those.

Source: SMPTE RDD 36:2015 5.1 (ProRes), by the table of declared/streams/prores.py.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ...declared.streams import prores
from ..wishes import COLOUR_CODES, Wishes

UNSPECIFIED = 2


@dataclass(frozen=True, slots=True)
class FrameHeader:
    """How one codec's frame headers are rewritten. size: bytes that are enough of a frame.

    said: returns those bytes as wished; the same ones where no header stands there.
    """

    size: int
    traits: frozenset[str]
    said: Callable[[bytes, Wishes], bytes]


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


FRAME_HEADERS = {
    "prores": FrameHeader(prores.FRAME.size_bytes, frozenset(COLOUR_CODES), _prores),
}
