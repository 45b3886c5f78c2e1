"""EBML elements: variable-length numbers, walking, and values by type. Source: RFC 8794."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from math import isfinite

from ...window import ShortReadError, Window

MAX_CHILDREN = 10_000
"""Honest masters hold tens of children; clusters and cues are never walked through."""
MAX_VALUE_BYTES = 1024 * 1024


@dataclass(frozen=True, slots=True)
class Element:
    """One element: id with its marker bit, body, whether it claims more than there is, start."""

    id: int
    body: Window
    is_cut: bool = False
    start: int = 0
    """Absolute offset of the id's first byte."""

    @property
    def end(self) -> int:
        """Return the absolute offset behind the element."""
        return self.body.end

    def children(self) -> Iterator["Element"]:
        """Yield the elements inside; a cut one ends the walk."""
        yield from walk(self.body)

    def child(self, wanted: int) -> "Element | None":
        """Return the first child of that id, or None."""
        return next((item for item in self.children() if item.id == wanted), None)

    def bytes(self, limit: int = MAX_VALUE_BYTES) -> bytes:
        """Return the body, at most `limit` bytes of it."""
        return self.body.read(0, min(self.body.size, limit))

    def unsigned(self) -> int:
        """Return an unsigned integer; 0 for an empty body, as EBML has it."""
        return int.from_bytes(self.bytes(8), "big")

    def number(self) -> float:
        """Return a float of 4 or 8 bytes; 0 for an empty body or no finite number."""
        data = self.bytes(8)
        kinds = {4: ">f", 8: ">d"}
        if len(data) not in kinds:
            return 0.0
        value = float(struct.unpack(kinds[len(data)], data)[0])
        return value if isfinite(value) else 0.0

    def text(self) -> str:
        """Return a string without its padding zeros."""
        return self.bytes(1024).split(b"\0")[0].decode("utf-8", "replace")


def read_number(data: bytes, *, keep_marker: bool) -> tuple[int, int] | None:
    """Return a variable-length number and its length; None where there is none.

    An id keeps its marker bit. A size of all ones comes back as -1: unknown.
    """
    if not data or data[0] == 0:
        return None
    length = 9 - data[0].bit_length()
    if len(data) < length:
        return None
    value = int.from_bytes(data[:length], "big")
    if keep_marker:
        return value, length
    value &= (1 << 7 * length) - 1
    return (-1 if value == (1 << 7 * length) - 1 else value), length


def walk(window: Window, start: int = 0) -> Iterator[Element]:
    """Yield elements from `start`; one of unknown size reaches to the window's end."""
    offset = start
    for _ in range(MAX_CHILDREN):
        head = window.read(offset, min(12, window.size - offset)) if offset < window.size else b""
        identity = read_number(head[:4], keep_marker=True)
        if identity is None:
            return
        size = read_number(head[identity[1] :], keep_marker=False)
        if size is None:
            return
        body = offset + identity[1] + size[1]
        length = window.size - body if size[0] < 0 else size[0]
        start = window.start + offset
        try:
            yield Element(identity[0], window.part(body, length), start=start)
        except ShortReadError:
            rest = window.part(body, window.size - body)
            yield Element(identity[0], rest, is_cut=True, start=start)
            return
        offset = body + length
