"""Codec configuration records: the wrapper's own fixed fields, and the units stored inside.

ISO base media keeps them in a box of the sample entry, Matroska in CodecPrivate. Fixed fields
are the wrapper's words; units inside are handed on unread. Source: ISO/IEC 14496-15.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ..coded import HeaderUnit
from ..layout import Layout, fields
from ..model import Said

CHROMA_FORMATS = {0: "4:0:0", 1: "4:2:0", 2: "4:2:2", 3: "4:4:4"}
HIGH_PROFILES = {100, 110, 122, 144, 244}


AVCC = Layout(
    "avcC",
    fields(version=8, profile=8, compatibility=8, level=8, ones=6, length_size_minus1=2),
    source="ISO/IEC 14496-15 5.3.3",
)
AVCC_HIGH = Layout(
    "avcC high profiles",
    fields(ones=6, chroma_format=2, ones2=5, luma_minus8=3, ones3=5, chroma_minus8=3),
    source="ISO/IEC 14496-15 5.3.3",
)
HVCC = Layout(
    "hvcC",
    fields(
        version=8,
        profile_space=2,
        tier=1,
        profile_idc=5,
        compatibility=32,
        constraints=48,
        level_idc=8,
        ones=4,
        min_spatial_segmentation=12,
        ones2=6,
        parallelism=2,
        ones3=6,
        chroma_format=2,
        ones4=5,
        luma_minus8=3,
        ones5=5,
        chroma_minus8=3,
        avg_frame_rate=16,
        constant_frame_rate=2,
        temporal_layers=3,
        temporal_nested=1,
        length_size_minus1=2,
        array_count=8,
    ),
    source="ISO/IEC 14496-15 8.3.3",
)


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


def read_avcc(data: bytes, where: str) -> ConfigRecord:
    """Return an H.264 configuration record; bit depth and chroma only where it has them."""
    head = AVCC.read(data)
    offset = AVCC.size_bytes
    sps, offset = _prefixed(data, offset + 1, data[offset] & 31 if offset < len(data) else 0)
    pps, offset = _prefixed(data, offset + 1, data[offset] if offset < len(data) else 0)
    said: dict[str, Said] = {}
    if head["profile"] in HIGH_PROFILES and len(data) >= offset + AVCC_HIGH.size_bytes:
        high = AVCC_HIGH.read(data, offset)
        said = _sampling(high["chroma_format"], high["luma_minus8"], where)
    units = tuple(HeaderUnit(unit, where) for unit in (*sps, *pps))
    return ConfigRecord(said, head["length_size_minus1"] + 1, units)


def read_hvcc(data: bytes, where: str) -> ConfigRecord:
    """Return an H.265 configuration record."""
    head = HVCC.read(data)
    said = _sampling(head["chroma_format"], head["luma_minus8"], where)
    units = tuple(HeaderUnit(unit, where) for unit in _hvcc_units(data, head["array_count"]))
    return ConfigRecord(said, head["length_size_minus1"] + 1, units)


def _hvcc_units(data: bytes, arrays: int) -> Iterator[bytes]:
    offset = HVCC.size_bytes
    for _ in range(arrays):
        if offset + 3 > len(data):
            return
        count = int.from_bytes(data[offset + 1 : offset + 3], "big")
        units, offset = _prefixed(data, offset + 3, count)
        yield from units


CONFIG_READERS = {"h264": read_avcc, "h265": read_hvcc}
"""Contract codec name → reader of its record. A new codec is one line here."""
