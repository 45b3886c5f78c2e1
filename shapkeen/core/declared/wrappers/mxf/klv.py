"""Keys, lengths and values; partitions, primer and sets. Source: SMPTE ST 377-1 6, 7, 9; ST 336."""

from collections.abc import Iterator
from dataclasses import dataclass

from ...layout import Layout, fields
from ...window import ShortReadError, Window

ST377 = "SMPTE ST 377-1"
KEY_BYTES = 16
LONGEST_LENGTH = 9
LABEL_START = bytes.fromhex("060E2B34")
PARTITION = bytes.fromhex("060E2B34020501010D01020101")
PRIMER = bytes.fromhex("060E2B34020501010D01020101050100")
SET = bytes.fromhex("060E2B34025301010D01010101")
INDEX_SEGMENT = bytes.fromhex("060E2B34025301010D010201011001")
ESSENCE = bytes.fromhex("060E2B34010201010D010301")
PICTURE_ITEMS = (0x05, 0x15)
"""Byte 12 of an essence element's key: picture in a content package of either kind."""
VERSION_BYTE = 7
SYSTEM_CATEGORY = 0x02
HEADER_KIND, BODY_KIND, FOOTER_KIND = 2, 3, 4
KIND_NAMES = {2: "header partition", 3: "body partition", 4: "footer partition"}
CLOSED = (2, 4)
PARTITION_PACK = Layout(
    "partition pack",
    fields(
        major=16,
        minor=16,
        kag_size=32,
        this_partition=64,
        previous_partition=64,
        footer_partition=64,
        header_byte_count=64,
        index_byte_count=64,
        index_sid=32,
        body_offset=64,
        body_sid=32,
        operational_pattern=128,
        container_count=32,
        container_size=32,
    ),
    source=f"{ST377} 7.1",
)
PRIMER_HEAD = Layout("primer pack", fields(count=32, size=32), source=f"{ST377} 9.2")
PRIMER_ITEM_BYTES = 18
PROPERTY = Layout("property", fields(tag=16, size=16), source=f"{ST377} 9.3; ST 336")
MAX_UNITS = 20_000
"""Header metadata holds hundreds of sets; content packages are walked only to the first picture."""
MAX_VALUE_BYTES = 256 * 1024


@dataclass(frozen=True, slots=True)
class Unit:
    """One key, length and value; `start` counts from the file's first byte."""

    key: bytes
    start: int
    body: Window

    def bytes(self, most: int = MAX_VALUE_BYTES) -> bytes:
        """Return the value, at most `most` bytes of it."""
        return self.body.read(0, min(self.body.size, most))

    @property
    def partition_kind(self) -> int | None:
        """Return what kind of partition starts here, None where none does."""
        is_partition = self.key.startswith(PARTITION) and self.key[13] in KIND_NAMES
        return self.key[13] if is_partition else None

    @property
    def is_set(self) -> bool:
        """Return whether this is a set of header metadata."""
        return same_label(self.key[: len(SET)], SET)

    @property
    def is_picture(self) -> bool:
        """Return whether this is picture essence."""
        return self.is_essence and self.key[12] in PICTURE_ITEMS

    @property
    def is_essence(self) -> bool:
        """Return whether this is an element of a content package: picture, sound or data."""
        return same_label(self.key[: len(ESSENCE)], ESSENCE)

    @property
    def is_system(self) -> bool:
        """Return whether this is the system item with which a content package begins."""
        return self.key[4] == SYSTEM_CATEGORY and self.key[8:12] == ESSENCE[8:12]


def same_label(one: bytes, other: bytes) -> bool:
    """Return whether labels agree but for the byte of their register's version."""
    return (
        one[:VERSION_BYTE] == other[:VERSION_BYTE]
        and one[VERSION_BYTE + 1 :] == other[VERSION_BYTE + 1 :]
    )


def walk(window: Window, start: int) -> Iterator[Unit]:
    """Yield units from `start`; what is no unit, or is cut off, ends the walk."""
    offset = start
    for _ in range(MAX_UNITS):
        head = window.read(offset, max(min(KEY_BYTES + LONGEST_LENGTH, window.size - offset), 0))
        if not head.startswith(LABEL_START) or len(head) <= KEY_BYTES:
            return
        length = ber_length(head[KEY_BYTES:])
        if length is None:
            return
        size, used = length
        body = offset + KEY_BYTES + used
        try:
            part = window.part(body, min(size, window.size - body))
        except ShortReadError:
            return
        yield Unit(head[:KEY_BYTES], offset, part)
        offset = body + size
        if offset >= window.size:
            return


def ber_length(data: bytes) -> tuple[int, int] | None:
    """Return a length and the bytes it takes (ITU-T X.690 8.1.3); None where it is damaged."""
    first = data[0]
    if first < 0x80:
        return first, 1
    count = first & 0x7F
    if not 0 < count < LONGEST_LENGTH or len(data) <= count:
        return None
    return int.from_bytes(data[1 : 1 + count], "big"), 1 + count


def read_primer(unit: Unit) -> dict[int, bytes]:
    """Return local tag → label."""
    data = unit.bytes()
    count = PRIMER_HEAD.read(data)["count"]
    offset, found = PRIMER_HEAD.size_bytes, {}
    for _ in range(count):
        item = data[offset : offset + PRIMER_ITEM_BYTES]
        if len(item) < PRIMER_ITEM_BYTES:
            break
        found[int.from_bytes(item[:2], "big")] = item[2:]
        offset += PRIMER_ITEM_BYTES
    return found


def read_properties(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Yield local tag and value of each property of a set."""
    offset = 0
    while offset + PROPERTY.size_bytes <= len(data):
        head = PROPERTY.read(data, offset)
        offset += PROPERTY.size_bytes
        yield head["tag"], data[offset : offset + head["size"]]
        offset += head["size"]
