"""Blocks and what is in them: track, lacing, and what a track's encodings took off.

Source: RFC 9559 sections 10 (blocks and lacing) and 5.1.4.1.31 (content encodings).
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ...window import ShortReadError
from . import elements as ids
from .ebml import Element, read_number

XIPH_LACING, FIXED_LACING, EBML_LACING = 1, 2, 3
BLOCK_HEAD_BYTES = 3
FIRST_BLOCK_BYTES = 64 * 1024
MAX_BLOCKS = 400


@dataclass(frozen=True, slots=True)
class Block:
    """One block: its track, the size of all in it, and the element that holds it."""

    track: int
    size_bytes: int
    element: Element

    def first_frame(self) -> bytes:
        """Return the first bytes of the first frame, lacing heads left out."""
        data = self.element.bytes(FIRST_BLOCK_BYTES)
        number = read_number(data, keep_marker=False)
        if number is None or len(data) < number[1] + BLOCK_HEAD_BYTES:
            return b""
        flags = data[number[1] + 2]
        return _behind_lacing(data[number[1] + BLOCK_HEAD_BYTES :], flags >> 1 & 3)


def blocks(cluster: Element) -> Iterator[Block]:
    """Yield the blocks of a cluster; one of unknown size ends where Segment's next part begins."""
    for count, element in enumerate(cluster.children()):
        if element.id in ids.LEVEL_ONE or count > MAX_BLOCKS:
            return
        holder = element.child(ids.BLOCK) if element.id == ids.BLOCK_GROUP else element
        if holder is None or holder.id not in (ids.SIMPLE_BLOCK, ids.BLOCK):
            continue
        try:
            number = read_number(holder.bytes(8), keep_marker=False)
        except ShortReadError:
            return
        if number is not None:
            yield Block(number[0], holder.body.size, holder)


def _behind_lacing(data: bytes, lacing: int) -> bytes:
    """Return the laced frames from the first one on; its own end does not matter for headers."""
    if not lacing or not data:
        return data
    frames, offset = data[0] + 1, 1
    if lacing == XIPH_LACING:
        for _ in range(frames - 1):
            while offset < len(data) and data[offset] == 0xFF:
                offset += 1
            offset += 1
    elif lacing == EBML_LACING:
        for _ in range(frames - 1):
            number = read_number(data[offset:], keep_marker=False)
            if number is None:
                return b""
            offset += number[1]
    return data[offset:]


def stripped_header(encodings: Element | None) -> bytes | None:
    """Return the bytes that each frame begins with but the file leaves out; None: not readable.

    Header stripping (algorithm 3) is undone; compressed or encrypted frames cannot be read.
    """
    if encodings is None:
        return b""
    prefix = b""
    for encoding in encodings.children():
        if encoding.id != ids.CONTENT_ENCODING:
            continue
        compression = encoding.child(ids.CONTENT_COMPRESSION)
        if compression is None:
            return None
        algorithm = compression.child(ids.COMPRESSION_ALGORITHM)
        if algorithm is None or algorithm.unsigned() != ids.HEADER_STRIPPING:
            return None
        settings = compression.child(ids.COMPRESSION_SETTINGS)
        prefix = settings.bytes(256) + prefix if settings is not None else prefix
    return prefix
