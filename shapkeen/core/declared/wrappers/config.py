"""Codec configuration records: the wrapper's own fixed fields, and the units stored inside.

ISO base media keeps them in a box of the sample entry, Matroska in CodecPrivate. Fixed fields
are the wrapper's words; units inside are handed on unread. Source: ISO/IEC 14496-15.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ..coded import HeaderUnit
from ..layout import Layout, fields
from ..model import Said
from ..sampling import CHROMA_FORMATS, SUBSAMPLINGS

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
    """Traits that the record states itself; coded units inside it, unread; its level and rate."""

    said: dict[str, Said]
    length_bytes: int
    units: tuple[HeaderUnit, ...]
    level: str | None = None
    bit_rate: int | None = None


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


AV1C = Layout(
    "av1C",
    fields(
        marker=1,
        version=7,
        seq_profile=3,
        seq_level_idx_0=5,
        seq_tier_0=1,
        high_bitdepth=1,
        twelve_bit=1,
        monochrome=1,
        subsampling_x=1,
        subsampling_y=1,
        chroma_sample_position=2,
        reserved=3,
        initial_delay_present=1,
        initial_delay_minus1=4,
    ),
    source="AV1 in ISOBMFF 1.2, 2.3.3",
)
VPCC = Layout(
    "vpcC",
    fields(
        version=8,
        flags=24,
        profile=8,
        level=8,
        bit_depth=4,
        chroma_subsampling=3,
        full_range=1,
        primaries=8,
        transfer=8,
        matrix=8,
        init_size=16,
    ),
    source="VP codec in ISOBMFF 1.0",
)
AV1_SITES = {1: 0, 2: 2}
VP_SAMPLINGS = {0: ("4:2:0", 0), 1: ("4:2:0", 2), 2: ("4:2:2", None), 3: ("4:4:4", None)}
"""chromaSubsampling → sampling and chroma location."""
VP_FEATURE_LEVEL, VP_FEATURE_DEPTH = 2, 3


def read_av1c(data: bytes, where: str) -> ConfigRecord:
    """Return an AV1 configuration record; units inside are one run."""
    head = AV1C.read(data)
    depth = 12 if head["twelve_bit"] else 10 if head["high_bitdepth"] else 8
    pair = (head["subsampling_x"], head["subsampling_y"])
    chroma = SUBSAMPLINGS.get(pair, "4:4:4")
    said = {
        "bit_depth": Said(value=depth, where=where),
        "chroma": Said(value="4:0:0" if head["monochrome"] else chroma, where=where),
    }
    site = AV1_SITES.get(head["chroma_sample_position"])
    if site is not None and pair == (1, 1):
        said["chroma_location"] = Said(value=site, where=where)
    rest = data[AV1C.size_bytes :]
    return ConfigRecord(said, 4, (HeaderUnit(rest, where),) if rest else ())


def read_vpcc(data: bytes, where: str) -> ConfigRecord:
    """Return a VP8 or VP9 configuration record."""
    head = VPCC.read(data)
    sampling, site = VP_SAMPLINGS.get(head["chroma_subsampling"], (None, None))
    values: dict[str, int | str | None] = {
        "bit_depth": head["bit_depth"],
        "chroma": sampling,
        "chroma_location": site,
        "range": "full" if head["full_range"] else "limited",
        "primaries": head["primaries"],
        "transfer": head["transfer"],
        "matrix": head["matrix"],
    }
    said = {k: Said(value=v, where=where) for k, v in values.items() if v is not None}
    return ConfigRecord(said, 4, (), _decimal(head["level"]))


def _decimal(level: int) -> str | None:
    whole, tenth = divmod(level, 10)
    return (f"{whole}.{tenth}" if tenth else str(whole)) if level else None


def read_vp9_features(data: bytes, where: str) -> ConfigRecord:
    """Return Matroska's CodecPrivate of VP9: id, length and value of each feature."""
    features = {data[i]: data[i + 2] for i in range(0, len(data) - 2, 3) if data[i + 1] == 1}
    said = {}
    if VP_FEATURE_DEPTH in features:
        said["bit_depth"] = Said(value=features[VP_FEATURE_DEPTH], where=where)
    return ConfigRecord(said, 4, (), _decimal(features.get(VP_FEATURE_LEVEL, 0)))


CONFIG_READERS = {
    "h264": read_avcc,
    "h265": read_hvcc,
    "av1": read_av1c,
    "vp8": read_vpcc,
    "vp9": read_vpcc,
}
"""Contract codec name → reader of its record. A new codec is one line here."""
