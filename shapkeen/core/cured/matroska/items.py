"""EBML elements that can be changed and written again, all else as it was. Source: RFC 8794."""

import zlib
from collections.abc import Iterator
from dataclasses import dataclass, replace

from ...declared.wrappers.matroska import elements as ids
from ...declared.wrappers.matroska.ebml import read_number

CRC, VOID = 0xBF, 0xEC
CHAPTERS, ATTACHMENTS = 0x1043A770, 0x1941A469
MASTERS = frozenset(
    {
        ids.TRACKS,
        ids.TRACK_ENTRY,
        ids.VIDEO,
        ids.COLOUR,
        ids.MASTERING,
        ids.PROJECTION,
        ids.SEEK_HEAD,
        ids.SEEK,
        ids.CUES,
        ids.CUE_POINT,
        ids.CUE_POSITIONS,
    }
)
"""Elements that are opened; the bodies of all others stay bytes."""


class OddElementError(ValueError):
    """The elements do not lie as they say; the text tells where."""


@dataclass(frozen=True, slots=True)
class Item:
    """One element. width: bytes that its size took, at least so many are used again.

    body: its bytes, where it is not opened.
    """

    id: int
    width: int = 1
    body: bytes = b""
    children: tuple["Item", ...] | None = None

    def __bytes__(self) -> bytes:
        """Return the element as it is written; a check sum that it holds is made anew."""
        body = self.content()
        return id_bytes(self.id) + size_bytes(len(body), self.width) + body

    def content(self) -> bytes:
        """Return what stands behind its size."""
        if self.children is None:
            return self.body
        parts = [bytes(child) for child in self.children if child.id != CRC]
        summed = [child for child in self.children if child.id == CRC]
        if not summed:
            return b"".join(parts)
        return bytes(replace(summed[0], body=check_sum(b"".join(parts)))) + b"".join(parts)

    def first(self, wanted: int) -> "Item | None":
        """Return the first child of that id."""
        return next((child for child in self.children or () if child.id == wanted), None)

    def unsigned(self) -> int:
        """Return an unsigned number."""
        return int.from_bytes(self.body, "big")

    def put(self, made: "Item") -> "Item":
        """Return the element with a child of that id in its old one's place, else as the last."""
        old = self.first(made.id)
        if old is None:
            return replace(self, children=(*(self.children or ()), made))
        kept = replace(made, width=max(made.width, old.width))
        return replace(self, children=tuple(kept if c is old else c for c in self.children or ()))

    def without(self, *wanted: int) -> "Item":
        """Return the element without its children of these ids."""
        kept = tuple(child for child in self.children or () if child.id not in wanted)
        return replace(self, children=kept)


def unsigned(wanted: int, value: int, least: int = 1) -> Item:
    """Return an element that holds an unsigned number in as few bytes as it needs."""
    return Item(wanted, body=value.to_bytes(max((value.bit_length() + 7) // 8, least), "big"))


def check_sum(data: bytes) -> bytes:
    """Return CRC-32 as EBML writes it: little-endian. Source: RFC 8794 11.3.1."""
    return zlib.crc32(data).to_bytes(4, "little")


def id_bytes(identity: int) -> bytes:
    """Return an id, its marker bit kept."""
    return identity.to_bytes((identity.bit_length() + 7) // 8, "big")


def size_bytes(size: int, least: int = 1) -> bytes:
    """Return a size in at least so many bytes; all ones would mean unknown."""
    width = least
    while size >= (1 << 7 * width) - 1:
        width += 1
    return (size | 1 << 7 * width).to_bytes(width, "big")


def read_item(data: bytes) -> Item:
    """Return the element that the data is; raises OddElementError where it does not end there."""
    items = list(_items(data))
    if len(items) != 1:
        raise OddElementError("more, or less, than one element")
    return items[0]


def _items(data: bytes) -> Iterator[Item]:
    at = 0
    while at < len(data):
        identity = read_number(data[at : at + 4], keep_marker=True)
        size = read_number(data[at + identity[1] : at + identity[1] + 8], keep_marker=False) if (
            identity
        ) else None  # fmt: skip
        if identity is None or size is None or size[0] < 0:
            raise OddElementError("an element without id or size")
        begin = at + identity[1] + size[1]
        end = begin + size[0]
        if end > len(data):
            raise OddElementError("an element reaches out of its parent")
        body = data[begin:end]
        if identity[0] in MASTERS:
            yield Item(identity[0], size[1], children=tuple(_items(body)))
        else:
            yield Item(identity[0], size[1], body)
        at = end
