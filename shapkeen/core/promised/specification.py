"""Delivery specifications: what a receiving service takes, as JSON files with a version.

`shapkeen.specification/1`. Those that ship stand in specifications/; their services are invented,
their limits are those that the trade reckons with (common practice, no source).
"""

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Literal

from ..errors import UsageError
from ..geometry.codec_profiles import PROFILES, Profile
from ..geometry.framing import STEPS, Size, broken_steps
from ..geometry.packing import PACKINGS
from .json_text import strict_converter, structured

SCHEMA = "shapkeen.specification/1"
SHIPPED = Path(__file__).with_name("specifications")
MAX_FILE_BYTES = 256 * 1024
KEY = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")
MOST_NUMBER = 10**15
"""Of bytes, a petabyte; of bits a second, more than any line."""
DECIBELS, MOST_DECIBELS = ("loudness_lufs", "most_peak_dbtp"), 100
"""Fields that may be below 0."""
NUMBERS = re.compile(r"\[\n([\s\d,.]*?)\n\s*\]")
"""Lists of nothing but numbers, which stand on one line to be read and edited."""
MOST_SIDE = 32768
WRAPPERS = frozenset({"mp4", "mov", "matroska", "webm", "mxf", "avi", "flv", "mpegts"})
PROJECTIONS = ("equirectangular", "half-equirectangular")
"""Those that a size can be planned for."""
LIGHTS = {"pq": 16, "hlg": 18, "sdr": 1}
"""Kinds of light → H.273 transfer characteristics."""

Light = Literal["pq", "hlg", "sdr"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Coding:
    """A codec and profile that is taken, as carriers.PROFILES names them."""

    codec: str
    profile: str

    @property
    def known(self) -> Profile | None:
        """Return the profile that is meant; None where there is no such one."""
        return next((p for p in PROFILES if (p.codec, p.name) == (self.codec, self.profile)), None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rates:
    """Bits a second: below least a service refuses or the picture suffers; target is advised."""

    target: int
    least: int | None = None
    most: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Length:
    """Seconds that a picture may last."""

    least_s: float | None = None
    most_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sound:
    """Sound beside the picture: bits and samples a second.

    loudness_lufs: the target, and by how many LU it may be missed; most_range_lu, most_peak_dbtp:
    the largest loudness range and the highest true peak. None where nothing is asked for.
    """

    codec: str
    bit_rate: int
    sample_rate: int = 48_000
    channels: int = 2
    loudness_lufs: float | None = None
    loudness_off_lu: float = 1.0
    most_range_lu: float | None = None
    most_peak_dbtp: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Specification:
    """What one receiving service takes; None or empty where it asks for nothing.

    rasters: stored sizes to choose from. most_raster: the largest otherwise. shape: shown width
    and height, lowest terms. bars: whether bars inside the picture are taken. square: whether
    pixel aspects other than 1:1 are refused. light: in order of preference. rates: frames a second,
    [n, d]. packings: of two eyes (geometry/packing.py). softens: whether its own encoding
    takes fine detail away. better_from_lines: from how many lines it encodes with more care.
    """

    key: str
    name: str
    version: int
    note: str = ""
    rasters: tuple[Size, ...] = ()
    most_raster: Size | None = None
    shape: Size | None = None
    bars: bool = True
    square: bool = True
    light: tuple[Light, ...] = ("sdr",)
    peak_nits: int | None = None
    bit_depth: int = 8
    chroma: str = "4:2:0"
    codecs: tuple[Coding, ...]
    wrappers: tuple[str, ...] = ("mp4",)
    bit_rate: Rates
    rates: tuple[Size, ...] = ()
    most_rate: Size | None = None
    length: Length = Length()
    most_bytes: int | None = None
    projection: str | None = None
    packings: tuple[str, ...] = ()
    sound: Sound | None = None
    softens: bool = False
    better_from_lines: int | None = None

    @property
    def frame_rates(self) -> tuple[Fraction, ...]:
        """Return the rates that are taken, as exact ratios; none means any."""
        return tuple(Fraction(*rate) for rate in self.rates)


_CONVERTER = strict_converter()


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-specification", where=where)


def specification_from_json(text: str) -> Specification:
    """Return the specification in a JSON text; raises UsageError saying what is wrong where."""
    made, data = structured(
        text,
        Specification,
        _CONVERTER,
        schema=SCHEMA,
        noun="specification",
        most_bytes=MAX_FILE_BYTES,
    )
    for where, fault in _faults(made, data):
        raise _refuse(fault, where)
    return made


def _faults(made: Specification, data: object) -> Iterator[tuple[str, str]]:
    """Yield where a specification contradicts itself or what pictures can be, and how."""
    if made.chroma not in STEPS:
        yield "chroma", f"The chroma sampling is one of {', '.join(STEPS)}."
        return
    yield from _broken_size(data)
    yield from _broken_name(made)
    yield from _broken_rasters(made)
    yield from _broken_numbers(made)
    yield from _broken_choices(made)


def _broken_size(data: object, where: str = "") -> Iterator[tuple[str, str]]:
    """Yield numbers that no file, rate or length can have: they would only break arithmetic."""
    if isinstance(data, dict):
        for key, value in data.items():
            yield from _broken_size(value, f"{where}.{key}".lstrip("."))
    elif isinstance(data, list):
        for index, value in enumerate(data):
            yield from _broken_size(value, f"{where}[{index}]")
    elif isinstance(data, int | float) and where.endswith(DECIBELS):
        if not -MOST_DECIBELS <= data <= MOST_DECIBELS:
            yield where, f"A level is -{MOST_DECIBELS} to {MOST_DECIBELS}; here stands {data:g}."
    elif isinstance(data, int | float) and not 0 <= data <= MOST_NUMBER:
        yield where, f"A number is 0 to {MOST_NUMBER:.0e}; here stands {str(data)[:20]}."


def _broken_name(made: Specification) -> Iterator[tuple[str, str]]:
    if not KEY.fullmatch(made.key) or len(made.key) > 60:
        yield "key", "A key is small letters, digits and hyphens, 60 at most."
    if not made.name.strip() or len(made.name) > 80:
        yield "name", "A name has 1 to 80 signs."
    if not 1 <= made.version <= 9999:
        yield "version", "A version is a whole number from 1."


def _broken_choices(made: Specification) -> Iterator[tuple[str, str]]:
    if made.bit_depth not in (8, 10, 12, 16):
        yield "bit_depth", "The bit depth is 8, 10, 12 or 16."
    if not made.light:
        yield "light", "At least one kind of light must be taken: pq, hlg or sdr."
    if not made.codecs:
        yield "codecs", "At least one codec must be taken."
    if not made.wrappers or not set(made.wrappers) <= WRAPPERS:
        yield "wrappers", f"At least one wrapper must be taken, of {', '.join(sorted(WRAPPERS))}."
    if made.projection is not None and made.projection not in PROJECTIONS:
        yield "projection", f"A projection is one of: {', '.join(PROJECTIONS)}."
    for index, coding in enumerate(made.codecs):
        if coding.known is None:
            known = ", ".join(f"{p.codec} {p.name}" for p in PROFILES)
            yield f"codecs[{index}]", f"That codec and profile is unknown; known are {known}."
    names = [packing.name for packing in PACKINGS]
    for index, name in enumerate(made.packings):
        if name not in names:
            yield f"packings[{index}]", f"A packing is one of: {'; '.join(names)}."


def _broken_rasters(made: Specification) -> Iterator[tuple[str, str]]:
    sizes = [(f"rasters[{i}]", raster) for i, raster in enumerate(made.rasters)]
    if made.most_raster:
        sizes.append(("most_raster", made.most_raster))
    for where, raster in sizes:
        if not all(0 < side <= MOST_SIDE for side in raster):
            yield where, f"Sides are 1 to {MOST_SIDE} samples; here stands {raster}."
        elif fault := broken_steps(raster, made.chroma):
            yield where, fault
    ratios = [("shape", made.shape), ("most_rate", made.most_rate)]
    ratios += [(f"rates[{i}]", rate) for i, rate in enumerate(made.rates)]
    for where, ratio in ratios:
        if ratio and min(ratio) <= 0:
            yield where, f"Both numbers must be above 0; here stands {ratio}."


def _broken_numbers(made: Specification) -> Iterator[tuple[str, str]]:
    rate, length = made.bit_rate, made.length
    if not (rate.least or 1) <= rate.target <= (rate.most or rate.target) or rate.target <= 0:
        yield "bit_rate", "Bit rates rise from least to target to most, all above 0."
    if length.least_s and length.most_s and length.least_s > length.most_s:
        yield "length", "The least length is longer than the most."
    if made.most_bytes is not None and made.most_bytes <= 0:
        yield "most_bytes", "The largest size must be above 0 bytes."


def specification_to_json(specification: Specification) -> str:
    """Return the specification as a file's text; what asks for nothing is left out."""
    data = _CONVERTER.unstructure(specification)
    kept = {key: value for key, value in data.items() if value not in (None, (), [], "", {})}
    kept = {key: _without_none(value) for key, value in kept.items()}
    text = json.dumps({"schema": SCHEMA, **kept}, ensure_ascii=False, indent=1) + "\n"
    return NUMBERS.sub(lambda found: f"[{' '.join(found[1].split())}]", text)


def _without_none(value: object) -> object:
    if isinstance(value, dict):
        return {key: item for key, item in value.items() if item is not None}
    return value


def shipped_specifications() -> tuple[Specification, ...]:
    """Return the specifications that ship with the application, by name."""
    texts = (path.read_text(encoding="utf-8") for path in sorted(SHIPPED.glob("*.json")))
    return tuple(sorted(map(specification_from_json, texts), key=lambda one: one.name))
