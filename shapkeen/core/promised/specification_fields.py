"""A specification as fields to fill in, and back: sizes and rates as people write them."""

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from ..errors import UsageError
from .specification import SCHEMA, Specification, specification_from_json, specification_to_json

Fields = Mapping[str, Any]
"""Texts, lists of words, and True or False, by field."""
SIZE = re.compile(r"(\d{1,5})\s*[x×*]\s*(\d{1,5})")
SHAPE = re.compile(r"(\d{1,5})\s*:\s*(\d{1,5})")
RATE = re.compile(r"(\d{1,6})(?:/(\d{1,6}))?")
DECIMAL_RATES = {"23.976": [24000, 1001], "29.97": [30000, 1001], "59.94": [60000, 1001]}
TEXTS = ("name", "note", "projection")
WORDS = ("light", "wrappers", "packings")
MILLIONS = {
    "rate_target": ("bit_rate", "target"),
    "rate_least": ("bit_rate", "least"),
    "rate_most": ("bit_rate", "most"),
}
SECONDS = {"length_least": ("length", "least_s"), "length_most": ("length", "most_s")}
WHOLE = ("bit_depth", "better_from_lines", "peak_nits")
SOUND = {
    "sound_rate": "sample_rate",
    "sound_channels": "channels",
    "loudness": "loudness_lufs",
    "loudness_off": "loudness_off_lu",
    "loudness_range": "most_range_lu",
    "true_peak": "most_peak_dbtp",
}
PLACES = {
    **{f"{outer}.{inner}": field for field, (outer, inner) in {**MILLIONS, **SECONDS}.items()},
    **{f"sound.{inner}": field for field, inner in SOUND.items()},
    "sound.bit_rate": "sound_bit_rate",
    "sound.codec": "sound_codec",
    "rates": "rates",
    "most_bytes": "most_megabytes",
}
"""Place of a fault in a specification → field, where their names differ."""


def fields_of_specification(spec: Specification) -> dict[str, Any]:
    """Return a specification as fields: what asks for nothing is empty."""
    data = json.loads(specification_to_json(spec))
    made: dict[str, Any] = {name: data.get(name, "") for name in (*TEXTS, "chroma")}
    made |= {name: data.get(name, []) for name in WORDS}
    made |= {name: _text(data.get(name)) for name in WHOLE}
    made |= {name: bool(data.get(name)) for name in ("bars", "square", "softens")}
    made["codecs"] = [f"{one['codec']}/{one['profile']}" for one in data["codecs"]]
    made["rasters"] = ", ".join(f"{w}×{h}" for w, h in data.get("rasters", []))
    made["most_raster"] = "×".join(map(str, data.get("most_raster", [])))
    made["shape"] = ":".join(map(str, data.get("shape", [])))
    made["rates"] = ", ".join(map(_rate_text, data.get("rates", [])))
    made["most_rate"] = _rate_text(data["most_rate"]) if "most_rate" in data else ""
    for field, (outer, inner) in MILLIONS.items():
        made[field] = _text(data.get(outer, {}).get(inner), 1e6)
    for field, (outer, inner) in SECONDS.items():
        made[field] = _text(data.get(outer, {}).get(inner))
    made["most_megabytes"] = _text(data.get("most_bytes"), 1e6)
    sound = data.get("sound", {})
    made["sound_codec"] = sound.get("codec", "")
    made["sound_bit_rate"] = _text(sound.get("bit_rate"), 1e3)
    return made | {field: _text(sound.get(inner)) for field, inner in SOUND.items()}


def _text(value: float | None, unit: float = 1) -> str:
    return "" if value is None else f"{value / unit:.10g}"


def _rate_text(rate: Sequence[int]) -> str:
    return str(rate[0]) if rate[1] == 1 else f"{rate[0]}/{rate[1]}"


def specification_from_fields(fields: Fields, *, key: str, version: int) -> Specification:
    """Return the specification that fields say; raises UsageError, where: the field at fault."""
    made: dict[str, Any] = {"schema": SCHEMA, "key": key, "version": version}
    made |= {name: str(fields.get(name) or "").strip() for name in (*TEXTS, "chroma")}
    made["projection"] = made["projection"] or None
    made |= {name: list(fields.get(name) or []) for name in WORDS}
    made |= {name: bool(fields.get(name)) for name in ("bars", "square", "softens")}
    made |= {name: _number(fields, name, whole=True) for name in WHOLE}
    made["codecs"] = [
        dict(zip(("codec", "profile"), one.split("/", 1), strict=True))
        for one in fields.get("codecs") or []
    ]
    made["rasters"] = [list(size) for size in _sizes(fields, "rasters", SIZE, "1920×1080")]
    for name, form, example in (("most_raster", SIZE, "3840×2160"), ("shape", SHAPE, "16:9")):
        found = list(_sizes(fields, name, form, example))
        made[name] = list(found[0]) if found else None
    made["rates"] = list(_rates(fields, "rates"))
    made["most_rate"] = next(_rates(fields, "most_rate"), None)
    for names, unit in ((MILLIONS, 1e6), (SECONDS, 1.0)):
        for field, (outer, inner) in names.items():
            value = _number(fields, field, unit)
            made.setdefault(outer, {})[inner] = round(value) if value and unit > 1 else value
    made["most_bytes"] = _whole(_number(fields, "most_megabytes", 1e6))
    made["sound"] = _sound(fields)
    text = json.dumps({name: value for name, value in made.items() if value is not None})
    try:
        return specification_from_json(text)
    except UsageError as error:
        where = re.sub(r"\[.*", "", error.where)
        error.where = PLACES.get(error.where, PLACES.get(where, where))
        raise


def _sound(fields: Fields) -> dict[str, Any] | None:
    codec = str(fields.get("sound_codec") or "").strip()
    if not codec:
        return None
    made: dict[str, Any] = {"codec": codec}
    made["bit_rate"] = _whole(_number(fields, "sound_bit_rate", 1e3)) or 0
    for field, inner in SOUND.items():
        value = _number(fields, field, whole=inner in ("sample_rate", "channels"))
        if value is not None:
            made[inner] = value
    return made


def _whole(value: float | None) -> int | None:
    return None if value is None else round(value)


def _number(fields: Fields, name: str, unit: float = 1.0, *, whole: bool = False) -> float | None:
    text = str(fields.get(name) or "").strip().replace(",", ".").replace("−", "-")
    if not text:
        return None
    try:
        value = float(text) * unit
    except ValueError as error:
        raise _wrong(f"{text} is no number.", name) from error
    if whole and value != round(value):
        raise _wrong(f"{text} is no whole number.", name)
    return round(value) if whole else value


def _parts(fields: Fields, name: str) -> Iterator[str]:
    text = str(fields.get(name) or "")
    yield from filter(None, (part.strip() for part in re.split(r"[,;\n]", text)))


def _sizes(
    fields: Fields, name: str, form: re.Pattern[str], example: str
) -> Iterator[tuple[int, int]]:
    for part in _parts(fields, name):
        found = form.fullmatch(part)
        if found is None:
            raise _wrong(f"{part} is written otherwise: {example}.", name)
        yield int(found[1]), int(found[2])


def _rates(fields: Fields, name: str) -> Iterator[list[int]]:
    for part in _parts(fields, name):
        found = RATE.fullmatch(part)
        if part in DECIMAL_RATES:
            yield DECIMAL_RATES[part]
        elif found is None or int(found[2] or 1) == 0:
            raise _wrong(f"{part} is no frame rate: 25, or 30000/1001.", name)
        else:
            yield [int(found[1]), int(found[2] or 1)]


def _wrong(text: str, field: str) -> UsageError:
    return UsageError(text, code="bad-specification", where=field)
