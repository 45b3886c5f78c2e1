"""MPEG-2 sequence headers that say wished codes, where they have a field for them already.

Source: ITU-T H.262 6.2.2.1, 6.2.2.4, 6.3.3 and 6.3.6; read by declared/streams/mpeg2.py.
"""

from math import gcd

from ...declared.streams.bits import BitReader
from ...declared.streams.mpeg2 import (
    DISPLAY_EXTENSION,
    EXTENSION,
    SEQUENCE,
    SEQUENCE_EXTENSION,
    SHAPES,
    SQUARE,
)
from ..wishes import COLOUR_CODES, Wishes

MOST_BYTES = 162
"""Of a sequence header with both matrices, and of both its extensions."""
START = b"\0\0\1"
UNSPECIFIED = 2
ASPECT_AT = 7
"""From the start code to the byte whose first four bits give the shape."""
COLOURS_AT = 5
"""From the start code to the primaries, where the bit before says that they are there."""


def said_in_sequence(head: bytes, wishes: Wishes) -> bytes:
    """Return bytes that begin with, or hold, sequence headers, with these saying what is wished.

    What has no field there keeps its words: shapes but three and square, colours where the
    encoder wrote none.
    """
    said, size, shown = bytearray(head), (0, 0), (0, 0)
    for at in _units(head):
        kind = head[at + 3]
        if kind == SEQUENCE and at + ASPECT_AT < len(head):
            size = _size(head, at)
        elif kind == EXTENSION and at + 5 < len(head):
            which = head[at + 4] >> 4
            if which == SEQUENCE_EXTENSION and at + 7 <= len(head):
                size = _extended(head, at, size)
            elif which == DISPLAY_EXTENSION:
                shown = _displayed(head, at)
                _say_colours(said, at, wishes)
    for at in _units(head):
        if head[at + 3] == SEQUENCE and at + ASPECT_AT < len(head):
            code = _shape_code(wishes, shown if all(shown) else size)
            if code is not None:
                said[at + ASPECT_AT] = code << 4 | said[at + ASPECT_AT] & 0x0F
    return bytes(said)


def _units(head: bytes) -> list[int]:
    """Return where start codes stand."""
    found, at = [], head.find(START)
    while 0 <= at < len(head) - 3:
        found.append(at)
        at = head.find(START, at + 3)
    return found


def _size(head: bytes, at: int) -> tuple[int, int]:
    number = int.from_bytes(head[at + 4 : at + 7], "big")
    return number >> 12, number & 0xFFF


def _extended(head: bytes, at: int, size: tuple[int, int]) -> tuple[int, int]:
    bits = BitReader(head[at + 4 :])
    bits.skip(4 + 8 + 1 + 2)
    return size[0] | bits.u(2) << 12, size[1] | bits.u(2) << 12


def _displayed(head: bytes, at: int) -> tuple[int, int]:
    behind = COLOURS_AT + (3 if head[at + 4] & 1 else 0)
    number = int.from_bytes(head[at + behind : at + behind + 4].ljust(4, b"\0"), "big")
    return number >> 18, number >> 3 & 0x3FFF


def _say_colours(said: bytearray, at: int, wishes: Wishes) -> None:
    if not said[at + 4] & 1 or at + COLOURS_AT + 3 > len(said):
        return
    for number, trait in enumerate(COLOUR_CODES):
        if trait in wishes:
            value = wishes[trait]
            said[at + COLOURS_AT + number] = value if isinstance(value, int) else UNSPECIFIED


def _shape_code(wishes: Wishes, size: tuple[int, int]) -> int | None:
    """Return the code of the wished pixel aspect; None where none is asked for, or says it."""
    wished = wishes.get("pixel_aspect")
    if not isinstance(wished, tuple) or not all(size):
        return None
    for code, shape in ((SQUARE, None), *SHAPES.items()):
        h, v = (1, 1) if shape is None else (shape[0] * size[1], shape[1] * size[0])
        if (h // gcd(h, v), v // gcd(h, v)) == wished:
            return code
    return None
