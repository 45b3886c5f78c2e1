"""A `moov` or `moof` box as a tree that can be changed and written again, all else as it was.

Source: ISO/IEC 14496-12 4.2. Boxes that hold boxes are opened only where something in them may
have to change; the bodies of all others stay bytes.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace

CONTAINERS = frozenset({"moov", "trak", "mdia", "minf", "stbl", "moof", "traf", "mfra", "dinf"})
STSD_HEAD, VISUAL_HEAD = 8, 78
"""Bytes before the first child: version, flags and count; and a VisualSampleEntry's fields."""
ENTRY_CONTAINERS = frozenset({"sv3d", "proj", "vexu", "eyes", "pack"})
SMALL, LARGE = 8, 16
MOST_SMALL = 0xFFFFFFFF


class OddBoxError(ValueError):
    """The boxes do not lie as they say; the text tells where."""


@dataclass(frozen=True, slots=True)
class Node:
    """One box: `head` is its body before its children, or all of it where it has none.

    tail: bytes behind the last child that are no box (QuickTime ends some lists with four zeros).
    wide: whether its size is written in 64 bits.
    """

    type: bytes
    head: bytes = b""
    children: tuple["Node", ...] | None = None
    tail: bytes = b""
    wide: bool = False

    @property
    def name(self) -> str:
        """Return the type as text."""
        return self.type.decode("latin-1")

    @property
    def size(self) -> int:
        """Return the bytes that it takes, its own header counted."""
        inside = sum(child.size for child in self.children or ())
        whole = len(self.head) + inside + len(self.tail) + (LARGE if self.wide else SMALL)
        return whole if self.wide or whole <= MOST_SMALL else whole + LARGE - SMALL

    def __bytes__(self) -> bytes:
        """Return the box as it is written."""
        return b"".join(self._parts())

    def _parts(self) -> Iterator[bytes]:
        size = self.size
        if self.wide or size > MOST_SMALL:
            yield (1).to_bytes(4, "big") + self.type + size.to_bytes(8, "big")
        else:
            yield size.to_bytes(4, "big") + self.type
        yield self.head
        for child in self.children or ():
            yield from child._parts()
        yield self.tail

    def first(self, *path: str) -> "Node | None":
        """Return the first box reached by going down through these types, or None."""
        node: Node | None = self
        for name in path:
            node = (
                next((c for c in (node.children or ()) if c.name == name), None) if node else None
            )
        return node

    def all(self, name: str) -> list["Node"]:
        """Return the children of one type."""
        return [child for child in self.children or () if child.name == name]

    def with_child(self, child: "Node", *, instead: "Node | None" = None) -> "Node":
        """Return the box with a child put in place of another, else behind all others."""
        before = self.children or ()
        if instead is None:
            return replace(self, children=(*before, child))
        return replace(self, children=tuple(child if c is instead else c for c in before))

    def without(self, *names: str) -> "Node":
        """Return the box without its children of these types."""
        kept = tuple(c for c in self.children or () if c.name not in names)
        return replace(self, children=kept)


@dataclass(slots=True)
class _Reading:
    data: bytes
    handler: bytes = field(default=b"")


def read_node(data: bytes) -> Node:
    """Return the box that the data is, from its first byte to its last.

    Raises OddBoxError where boxes inside reach out of it, or overlap.
    """
    reading = _Reading(data)
    nodes, end = _nodes(reading, 0, len(data), ())
    if len(nodes) != 1 or end != len(data):
        raise OddBoxError("the index holds more, or less, than one box")
    return nodes[0]


def _nodes(
    reading: _Reading, start: int, end: int, path: tuple[str, ...]
) -> tuple[list[Node], int]:
    """Return the boxes from start on, and where they end: what follows is no box."""
    found, at = [], start
    while at + SMALL <= end:
        size = int.from_bytes(reading.data[at : at + 4], "big")
        kind, body, wide = reading.data[at + 4 : at + 8], at + SMALL, False
        if size == 1 and at + LARGE <= end:
            size, body, wide = (
                int.from_bytes(reading.data[at + 8 : at + 16], "big"),
                at + LARGE,
                True,
            )
        elif size == 0:
            if not any(reading.data[at:end]):
                break  # a list's end in QuickTime
            size = end - at
        if size < body - at or at + size > end:
            raise OddBoxError(f"a box at {'/'.join(path) or 'the start'} reaches out of its parent")
        found.append(_node(reading, kind, body, at + size, path, wide=wide))
        at += size
    return found, at


def _node(
    reading: _Reading, kind: bytes, body: int, end: int, path: tuple[str, ...], *, wide: bool
) -> Node:
    name = kind.decode("latin-1")
    skip = _skipped(name, path, reading.handler)
    if name == "hdlr" and path and path[-1] == "mdia":
        reading.handler = reading.data[body + 8 : body + 12]
    if skip is None or body + skip > end:
        return Node(kind, reading.data[body:end], wide=wide)
    children, stopped = _nodes(reading, body + skip, end, (*path, name))
    head, tail = reading.data[body : body + skip], reading.data[stopped:end]
    return Node(kind, head, tuple(children), tail, wide)


def _skipped(name: str, path: tuple[str, ...], handler: bytes) -> int | None:
    """Return the bytes before a box's first child; None where it stays closed."""
    if name in CONTAINERS:
        return 0
    if name == "stsd":
        return STSD_HEAD
    if path and path[-1] == "stsd":
        return VISUAL_HEAD if handler == b"vide" else None
    return 0 if name in ENTRY_CONTAINERS and "stsd" in path else None
