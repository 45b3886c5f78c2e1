"""Levels: what a declared level allows, and whether a picture keeps to it.

Sources: ITU-T H.264 tables A-1 and A-2; ITU-T H.265 tables A.8 to A.10; AV1 specification annex A;
VP9 levels definition. Every cell is checked against tests/reference/levels.json, whose cells
were checked against the tables inside encoders.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction


@dataclass(frozen=True, slots=True)
class Level:
    """One level's limits: luma samples a picture and a second, sides, bits a second by tier.

    H.264 counts macroblocks; its limits stand here times 256, its sides times 16.
    """

    name: str
    picture_samples: int
    samples_a_second: int
    width: int
    height: int
    bit_rate: int
    bit_rate_high: int | None


@dataclass(frozen=True, slots=True)
class Excess:
    """One limit that a picture exceeds."""

    what: str
    value: float
    limit: float
    unit: str


H264 = (
    Level("1", 25344, 380160, 448, 448, 64000, None),
    Level("1b", 25344, 380160, 448, 448, 128000, None),
    Level("1.1", 101376, 768000, 896, 896, 192000, None),
    Level("1.2", 101376, 1536000, 896, 896, 384000, None),
    Level("1.3", 101376, 3041280, 896, 896, 768000, None),
    Level("2", 101376, 3041280, 896, 896, 2000000, None),
    Level("2.1", 202752, 5068800, 1264, 1264, 4000000, None),
    Level("2.2", 414720, 5184000, 1808, 1808, 4000000, None),
    Level("3", 414720, 10368000, 1808, 1808, 10000000, None),
    Level("3.1", 921600, 27648000, 2704, 2704, 14000000, None),
    Level("3.2", 1310720, 55296000, 3232, 3232, 20000000, None),
    Level("4", 2097152, 62914560, 4096, 4096, 20000000, None),
    Level("4.1", 2097152, 62914560, 4096, 4096, 50000000, None),
    Level("4.2", 2228224, 133693440, 4208, 4208, 50000000, None),
    Level("5", 5652480, 150994944, 6720, 6720, 135000000, None),
    Level("5.1", 9437184, 251658240, 8688, 8688, 240000000, None),
    Level("5.2", 9437184, 530841600, 8688, 8688, 240000000, None),
    Level("6", 35651584, 1069547520, 16880, 16880, 240000000, None),
    Level("6.1", 35651584, 2139095040, 16880, 16880, 480000000, None),
    Level("6.2", 35651584, 4278190080, 16880, 16880, 800000000, None),
)
H265 = (
    Level("1", 36864, 552960, 543, 543, 128000, None),
    Level("2", 122880, 3686400, 991, 991, 1500000, None),
    Level("2.1", 245760, 7372800, 1402, 1402, 3000000, None),
    Level("3", 552960, 16588800, 2103, 2103, 6000000, None),
    Level("3.1", 983040, 33177600, 2804, 2804, 10000000, None),
    Level("4", 2228224, 66846720, 4222, 4222, 12000000, 30000000),
    Level("4.1", 2228224, 133693440, 4222, 4222, 20000000, 50000000),
    Level("5", 8912896, 267386880, 8444, 8444, 25000000, 100000000),
    Level("5.1", 8912896, 534773760, 8444, 8444, 40000000, 160000000),
    Level("5.2", 8912896, 1069547520, 8444, 8444, 60000000, 240000000),
    Level("6", 35651584, 1069547520, 16888, 16888, 60000000, 240000000),
    Level("6.1", 35651584, 2139095040, 16888, 16888, 120000000, 480000000),
    Level("6.2", 35651584, 4278190080, 16888, 16888, 240000000, 800000000),
)
AV1 = (
    Level("2", 147456, 4423680, 2048, 1152, 1500000, None),
    Level("2.1", 278784, 8363520, 2816, 1584, 3000000, None),
    Level("3", 665856, 19975680, 4352, 2448, 6000000, None),
    Level("3.1", 1065024, 31950720, 5504, 3096, 10000000, None),
    Level("4", 2359296, 70778880, 6144, 3456, 12000000, 30000000),
    Level("4.1", 2359296, 141557760, 6144, 3456, 20000000, 50000000),
    Level("5", 8912896, 267386880, 8192, 4352, 30000000, 100000000),
    Level("5.1", 8912896, 534773760, 8192, 4352, 40000000, 160000000),
    Level("5.2", 8912896, 1069547520, 8192, 4352, 60000000, 240000000),
    Level("5.3", 8912896, 1069547520, 8192, 4352, 60000000, 240000000),
    Level("6", 35651584, 1069547520, 16384, 8704, 60000000, 240000000),
    Level("6.1", 35651584, 2139095040, 16384, 8704, 100000000, 480000000),
    Level("6.2", 35651584, 4278190080, 16384, 8704, 160000000, 800000000),
    Level("6.3", 35651584, 4278190080, 16384, 8704, 160000000, 800000000),
)
VP9 = (
    Level("1", 36864, 829440, 512, 512, 200000, None),
    Level("1.1", 73728, 2764800, 768, 768, 800000, None),
    Level("2", 122880, 4608000, 960, 960, 1800000, None),
    Level("2.1", 245760, 9216000, 1344, 1344, 3600000, None),
    Level("3", 552960, 20736000, 2048, 2048, 7200000, None),
    Level("3.1", 983040, 36864000, 2752, 2752, 12000000, None),
    Level("4", 2228224, 83558400, 4160, 4160, 18000000, None),
    Level("4.1", 2228224, 160432128, 4160, 4160, 30000000, None),
    Level("5", 8912896, 311951360, 8384, 8384, 60000000, None),
    Level("5.1", 8912896, 588251136, 8384, 8384, 120000000, None),
    Level("5.2", 8912896, 1176502272, 8384, 8384, 180000000, None),
    Level("6", 35651584, 1176502272, 16832, 16832, 180000000, None),
    Level("6.1", 35651584, 2353004544, 16832, 16832, 240000000, None),
    Level("6.2", 35651584, 4706009088, 16832, 16832, 480000000, None),
)
LEVELS = {"h264": H264, "h265": H265, "av1": AV1, "vp9": VP9}
BLOCK = {"h264": 16, "h265": 8, "av1": 1, "vp9": 1}
"""Coded sides are whole blocks: macroblocks, or the smallest coding blocks in use."""

# Factors on the bit rate by profile: H.264 table A-2 (cpbBrVclFactor ÷ 1000), H.265 table A.10
# (CpbVclFactor ÷ 1000). Others count 1; unknown ones are given room, for a false alarm is worse.
BIT_RATE_FACTORS = {
    "h264": {
        "Baseline": 1.0,
        "Constrained Baseline": 1.0,
        "Main": 1.0,
        "Extended": 1.0,
        "High": 1.25,
        "Progressive High": 1.25,
        "Constrained High": 1.25,
        "High 10": 3.0,
        "High 10 Intra": 3.0,
        "High 4:2:2": 4.0,
    },
    "h265": {"Main": 1.0, "Main 10": 1.0, "Main 12": 1.5, "Main 4:2:2 10": 1.667},
    "av1": {"Main": 1.0, "High": 2.0, "Professional": 3.0},
    "vp9": {"0": 1.0, "2": 1.0},
}
ROOMY_FACTOR = 4.0
BUFFER_S = 2.5
"""A decoder's buffer may be filled before the first picture: up to MaxCPB ÷ MaxBR, 1 to 2.5 s. A
short file may so lawfully hold more than its duration times the level's rate."""


def level_of(codec: str, name: str) -> Level | None:
    """Return a level by codec and name ("5.1"), None where there is no such level."""
    return next((level for level in LEVELS.get(codec, ()) if level.name == name), None)


def coded_raster(codec: str, raster: tuple[int, int]) -> tuple[int, int]:
    """Return the raster filled up to whole coding blocks."""
    block = BLOCK[codec]
    return -(-raster[0] // block) * block, -(-raster[1] // block) * block


def excesses(
    codec: str,
    name: str,
    *,
    raster: tuple[int, int],
    rate: Fraction | None,
    bit_rate: int | None = None,
    duration_s: float | None = None,
    profile: str | None = None,
    high_tier: bool = False,
) -> list[Excess]:
    """Return every limit of a declared level that a picture exceeds; none for unknown levels.

    raster: samples. rate: frames a second. bit_rate: bits a second, averaged
    over duration_s; without a duration the bit rate is not judged.
    """
    level = level_of(codec, name)
    if level is None:
        return []
    found = list(_picture_excesses(codec, level, raster, rate))
    if bit_rate is not None and duration_s:
        tier = (level.bit_rate_high if high_tier else None) or level.bit_rate
        ceiling = tier * BIT_RATE_FACTORS.get(codec, {}).get(profile or "", ROOMY_FACTOR)
        ceiling *= 1 + BUFFER_S / duration_s
        if bit_rate > ceiling:
            found.append(Excess("bit rate", bit_rate / 1e6, ceiling / 1e6, "Mb/s"))
    return found


def _picture_excesses(
    codec: str, level: Level, raster: tuple[int, int], rate: Fraction | None
) -> Iterator[Excess]:
    width, height = coded_raster(codec, raster)
    samples = width * height
    if samples > level.picture_samples:
        yield Excess("samples in a picture", samples, level.picture_samples, "samples")
    if width > level.width or height > level.height:
        side, limit = max((width, level.width), (height, level.height), key=lambda p: p[0] / p[1])
        yield Excess("side of the picture", side, limit, "samples")
    if rate is not None and samples * rate > level.samples_a_second:
        yield Excess("samples a second", float(samples * rate), level.samples_a_second, "samples/s")


def smallest_level(codec: str, raster: tuple[int, int], rate: Fraction) -> str | None:
    """Return the name of the smallest level that carries a raster at a rate; None for none."""
    for level in LEVELS[codec]:
        if not excesses(codec, level.name, raster=raster, rate=rate):
            return level.name
    return None
