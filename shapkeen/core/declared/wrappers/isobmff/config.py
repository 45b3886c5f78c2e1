"""Codec configuration records: the wrapper's own fixed fields, and the units stored inside."""

from collections.abc import Iterator
from dataclasses import dataclass

from ...coded import HeaderUnit
from ...model import Said
from .boxes import Box
from .layouts import AVCC, AVCC_HIGH, HVCC

CHROMA_FORMATS = {0: "4:0:0", 1: "4:2:0", 2: "4:2:2", 3: "4:4:4"}
HIGH_PROFILES = {100, 110, 122, 144, 244}


@dataclass(frozen=True, slots=True)
class ConfigRecord:
    """Traits that the record states itself; coded units inside it, unread."""

    said: dict[str, Said]
    length_bytes: int
    units: tuple[HeaderUnit, ...]


def _prefixed(data: bytes, offset: int, count: int) -> tuple[list[bytes], int]:
    """Return up to `count` units that a 16-bit length precedes, and where they end."""
    units = []
    for _ in range(count):
        size = int.from_bytes(data[offset : offset + 2], "big")
        unit = data[offset + 2 : offset + 2 + size]
        if len(unit) < size or offset + 2 > len(data):
            break
        units.append(unit)
        offset += 2 + size
    return units, offset


def _sampling(chroma_format: int, luma_minus8: int, where: str) -> dict[str, Said]:
    said = {"bit_depth": Said(value=luma_minus8 + 8, where=where)}
    if chroma_format in CHROMA_FORMATS:
        said["chroma"] = Said(value=CHROMA_FORMATS[chroma_format], where=where)
    return said


def read_avcc(box: Box) -> ConfigRecord:
    """Return an H.264 configuration record; bit depth and chroma only where it has them."""
    data = box.bytes()
    head = AVCC.read(data)
    offset = AVCC.size_bytes
    sps, offset = _prefixed(data, offset + 1, data[offset] & 31 if offset < len(data) else 0)
    pps, offset = _prefixed(data, offset + 1, data[offset] if offset < len(data) else 0)
    said: dict[str, Said] = {}
    if head["profile"] in HIGH_PROFILES and len(data) >= offset + AVCC_HIGH.size_bytes:
        high = AVCC_HIGH.read(data, offset)
        said = _sampling(high["chroma_format"], high["luma_minus8"], box.path)
    units = tuple(HeaderUnit(unit, box.path) for unit in (*sps, *pps))
    return ConfigRecord(said, head["length_size_minus1"] + 1, units)


def read_hvcc(box: Box) -> ConfigRecord:
    """Return an H.265 configuration record."""
    data = box.bytes()
    head = HVCC.read(data)
    said = _sampling(head["chroma_format"], head["luma_minus8"], box.path)
    units = tuple(HeaderUnit(unit, box.path) for unit in _hvcc_units(data, head["array_count"]))
    return ConfigRecord(said, head["length_size_minus1"] + 1, units)


def _hvcc_units(data: bytes, arrays: int) -> Iterator[bytes]:
    offset = HVCC.size_bytes
    for _ in range(arrays):
        if offset + 3 > len(data):
            return
        count = int.from_bytes(data[offset + 1 : offset + 3], "big")
        units, offset = _prefixed(data, offset + 3, count)
        yield from units


CONFIG_READERS = {"avcC": ("h264", read_avcc), "hvcC": ("h265", read_hvcc)}
"""Box type → contract codec name and reader. A new codec is one line here."""
