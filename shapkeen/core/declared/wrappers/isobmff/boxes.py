"""Walking boxes: headers, children and paths, within bounds. Source: ISO/IEC 14496-12 4.2."""

from collections.abc import Iterator
from dataclasses import dataclass

from ...window import ShortReadError, Window
from .layouts import BOX, LARGE_SIZE

MAX_CHILDREN = 4096
"""Honest parents hold tens of boxes; a hostile one could claim millions of empty ones."""
MAX_TOP_BOXES = 500_000
"""A day of half-second fragments is 345 600 boxes."""
MANY_BOXES, LEAST_MEAN_BYTES = 50_000, 64
"""So many boxes hold fragments, and these are larger; what is smaller is there to waste time."""


@dataclass(frozen=True, slots=True)
class Box:
    """One box: type, path such as `moov/trak[0]/mdia`, its payload, and its whole extent."""

    type: str
    path: str
    body: Window
    start: int
    claimed_end: int
    """Where the header says that the box ends (absolute); past the window if it was cut."""

    def children(self, skip: int = 0) -> list["Box"]:
        """Return the boxes inside, from `skip` bytes into the body; cut ones are left out."""
        inside = [b for b in walk(self.body, self.path, skip, MAX_CHILDREN) if not b.is_cut]
        counts: dict[str, int] = {}
        named = []
        for box in inside:
            number = counts.get(box.type, 0)
            counts[box.type] = number + 1
            numbered = box.type in {"trak", "traf"} or number
            path = f"{box.path}[{number}]" if numbered else box.path
            named.append(Box(box.type, path, box.body, box.start, box.claimed_end))
        return named

    @property
    def is_cut(self) -> bool:
        """Return whether the box claims more bytes than there are."""
        return self.claimed_end > self.body.end

    def bytes(self, limit: int | None = None) -> bytes:
        """Return the body, or its first `limit` bytes."""
        count = self.body.size if limit is None else min(limit, self.body.size)
        return self.body.read(0, count)


def walk(window: Window, path: str, skip: int, most: int) -> Iterator[Box]:
    """Yield the boxes of a window in order; the last may be cut off. At most `most` of them."""
    offset = skip
    for number in range(most):
        if number > MANY_BOXES and offset < number * LEAST_MEAN_BYTES:
            return
        if offset + BOX.size_bytes > window.size:
            return
        header = BOX.read(window.read(offset, BOX.size_bytes))
        size, start = header["size"], offset + BOX.size_bytes
        if size == 1:
            try:
                size = LARGE_SIZE.read(window.read(start, LARGE_SIZE.size_bytes))["size"]
            except ShortReadError:
                return
            start += LARGE_SIZE.size_bytes
        elif size == 0:
            size = window.size - offset
        if offset + size < start:
            return  # shorter than its own header: nothing after it can be trusted
        kind = header["type"].to_bytes(4, "big").decode("latin-1")
        end = offset + size
        body = window.part(start, max(min(end, window.size) - start, 0))
        inner = f"{path}/{kind}" if path else kind
        yield Box(kind, inner, body, window.start + offset, window.start + end)
        offset = end


def find(boxes: list[Box], *kinds: str) -> Box | None:
    """Return the first box reached by going down through `kinds`, or None."""
    found: Box | None = None
    level = boxes
    for kind in kinds:
        found = next((box for box in level if box.type == kind), None)
        if found is None:
            return None
        level = found.children() if kind != kinds[-1] else []
    return found
