"""Configuration records (`avcC`, `hvcC`) whose parameter sets say what is wished.

Source: ISO/IEC 14496-15 5.3.3.1 and 8.3.3.1; all other bytes stay.
"""

from collections.abc import Callable, Iterator
from typing import TypeAlias

Unit: TypeAlias = Callable[[bytes], bytes]
"""Takes a unit, and gives it back as it shall be; empty where it shall go."""
AVCC_HEAD, HVCC_HEAD = 6, 23


class UnreadableRecordError(ValueError):
    """The record ends before its units do."""


def with_units(record: bytes, codec: str, change: Unit) -> bytes:
    """Return a record of h264 or h265 with every unit given to `change`; others stay as they are.

    Raises UnreadableRecordError.
    """
    if codec == "h264":
        return _avcc(record, change)
    return _hvcc(record, change) if codec == "h265" else record


def length_bytes(record: bytes, codec: str) -> int:
    """Return how many bytes give a unit's length in samples."""
    at = 4 if codec == "h264" else 21
    return (record[at] & 3) + 1 if len(record) > at else 4


def _avcc(record: bytes, change: Unit) -> bytes:
    parts = [record[: AVCC_HEAD - 1]]
    at = AVCC_HEAD - 1
    for mask in (0b11111, 0xFF):  # sequence parameter sets, then picture parameter sets
        told, at = _byte(record, at), at + 1
        units = list(_units(record, at, told & mask))
        at += sum(2 + len(unit) for unit in units)
        made = [made for unit in units if (made := change(unit))]
        parts += [bytes([told & ~mask & 0xFF | len(made)]), *map(_measured, made)]
    return b"".join([*parts, record[at:]])


def _hvcc(record: bytes, change: Unit) -> bytes:
    parts, at = [record[:HVCC_HEAD]], HVCC_HEAD
    for _ in range(_byte(record, HVCC_HEAD - 1)):
        kind = record[at : at + 1]
        count, at = int.from_bytes(record[at + 1 : at + 3], "big"), at + 3
        units = list(_units(record, at, count))
        at += sum(2 + len(unit) for unit in units)
        made = [made for unit in units if (made := change(unit))]
        parts += [kind, len(made).to_bytes(2, "big"), *map(_measured, made)]
    return b"".join([*parts, record[at:]])


def _byte(record: bytes, at: int) -> int:
    if at >= len(record):
        raise UnreadableRecordError("it ends too soon")
    return record[at]


def _units(record: bytes, at: int, count: int) -> Iterator[bytes]:
    for _ in range(count):
        size = int.from_bytes(record[at : at + 2], "big")
        unit = record[at + 2 : at + 2 + size]
        if at + 2 > len(record) or len(unit) != size:
            raise UnreadableRecordError("a unit ends too soon")
        yield unit
        at += 2 + size


def _measured(unit: bytes) -> bytes:
    return len(unit).to_bytes(2, "big") + unit
