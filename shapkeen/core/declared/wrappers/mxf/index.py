"""Index tables: where the second picture lies at which decoding can start.

Source: SMPTE ST 377-1 11.2.
"""

from ...layout import FieldError, Layout, fields
from ...window import ShortReadError
from . import klv

EDIT_UNIT_BYTE_COUNT, INDEX_ENTRIES = 0x3F05, 0x3F0A
ENTRY = Layout(
    "index entry",
    fields(temporal_offset=-8, key_frame_offset=-8, flags=8, stream_offset=64),
    source="SMPTE ST 377-1 11.2.4",
)
ENTRIES_HEAD = Layout("index entry array", fields(count=32, size=32), source="SMPTE ST 377-1")
RANDOM_ACCESS = 0x80
MAX_ENTRIES = 5000


def second_random_access(indexes: list[klv.Unit]) -> tuple[int, int] | None:
    """Return the edit unit's number and its offset in the essence, None where no index says it.

    Index properties have fixed tags, so that no primer is needed.
    """
    for unit in indexes:
        try:
            values = dict(klv.read_properties(unit.bytes()))
            constant = int.from_bytes(values.get(EDIT_UNIT_BYTE_COUNT, b""), "big")
            if constant:
                return 1, constant
            place = _second_key(values.get(INDEX_ENTRIES, b""))
        except (FieldError, ShortReadError):
            continue
        if place is not None:
            return place
    return None


def _second_key(data: bytes) -> tuple[int, int] | None:
    head = ENTRIES_HEAD.read(data)
    offset = ENTRIES_HEAD.size_bytes
    for number in range(min(head["count"], MAX_ENTRIES)):
        entry = ENTRY.read(data, offset)
        offset += max(head["size"], 1)
        if number and entry["flags"] & RANDOM_ACCESS:
            return number, entry["stream_offset"]
    return None
