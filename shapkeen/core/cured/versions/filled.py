"""A recipe from what an editor filled in: plain words and numbers, each empty one as usual."""

import re
from collections.abc import Iterator, Mapping
from fractions import Fraction
from typing import Any

from ...declared import Declaration
from ...errors import UsageError
from ...geometry.timecode import frame_of
from ...promised import value_stated
from .recipe_text import MOST_NAME, SCHEMA, packed_cube

LIGHTS: Mapping[str, tuple[int, int, int]] = {
    "sdr": (1, 1, 1),
    "pq": (16, 9, 9),
    "hlg": (18, 9, 9),
}
"""Kind of light → transfer, primaries and matrix (H.273) that a delivery of it has."""
COLOURS = ("transfer", "primaries", "matrix")
CLIP = re.compile(r"(?P<name>.*?)\s*(?P<first>[\d:]+)\s*(?:to|–|-)\s*(?P<last>[\d:]+)")
SIZE = re.compile(r"\s*(\d{1,5})\s*[x×*]\s*(\d{1,5})\s*")


def recipe_from_fields(
    fields: Mapping[str, str], master: Declaration, rate: Fraction
) -> dict[str, Any]:
    """Return a recipe's object (`shapkeen.recipe/1`) of filled-in fields, not checked further.

    fields: name, coding ("h264/High"), preset, quality, bit_rate (Mb/s), passes, wrapper, size
    ("1920×1080"), light (sdr, pq, hlg), tone_map, stereo, first, last (frames or timecode, the last
    one included), timecode, burnt_text, sound, loudness, channels (1, 2), clips ("tick 24 to 71,
    96 to 143"), file (a pattern of names), table (a .cube file's text), table_name. An empty one is
    left as usual. Raises UsageError naming the field in which something else stands than a number,
    a size or a time.
    """
    said = {name: value.strip() for name, value in fields.items() if value and value.strip()}
    codec, _, profile = said.get("coding", "").partition("/")
    coding: dict[str, Any] = {"codec": codec}
    coding |= {key: said[key] for key in ("preset",) if key in said}
    if profile:
        coding["profile"] = profile
    if "quality" in said:
        coding["crf"] = _number(said["quality"], "quality")
    if "bit_rate" in said:
        coding["bit_rate"] = round(_number(said["bit_rate"], "bit_rate") * 1e6)
    if "passes" in said:
        coding["passes"] = 2
    made: dict[str, Any] = {"schema": SCHEMA, "name": said.get("name", ""), "coding": coding}
    made["wrapper"] = said.get("wrapper", "mp4")
    made["promise"] = _promise(said, master)
    made |= _marks(said, rate)
    if "clips" in said:
        made["clips"] = list(_clips(said["clips"], rate))
    made |= {key: said[key] for key in ("file",) if key in said}
    made["sound"] = _sound(said)
    burnt: dict[str, Any] = {"timecode": "timecode" in said, "text": said.get("burnt_text", "")}
    if any(burnt.values()):
        made["burn_in"] = burnt
    if said.get("light") == "sdr" and "tone_map" in said:
        made["light"] = {"tone_map": said["tone_map"]}
    if "table" in said:
        name = said.get("table_name", "table.cube")
        values = packed_cube(said["table"], name)
        made["light"] = {"table": values, "table_name": name[:MOST_NAME]}
    return made


def _sound(said: Mapping[str, str]) -> dict[str, Any]:
    made: dict[str, Any] = {"codec": said.get("sound", "copy")}
    if "loudness" in said:
        made["loudness_lufs"] = _number(said["loudness"], "loudness")
    if "channels" in said:
        made["channels"] = int(_number(said["channels"], "channels"))
    return made


def _number(text: str, field: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError as error:
        raise _wrong(f"{text} is no number.", field) from error


def _promise(said: Mapping[str, str], master: Declaration) -> dict[str, Any]:
    made: dict[str, Any] = {}
    if "size" in said:
        found = SIZE.fullmatch(said["size"])
        if not found:
            raise _wrong("A size is width × height in samples, as in 1920×1080.", "size")
        made["raster"] = {"value": [int(found[1]), int(found[2])]}
        made["pixel_aspect"] = {"value": [1, 1]}
    for trait, code in zip(COLOURS, LIGHTS.get(said.get("light", ""), ()), strict=False):
        own = value_stated(master, trait)
        if own != code:
            made[trait] = {"value": code} | ({"from": own} if own is not None else {})
    if "stereo" in said:
        made["stereo"] = {"value": said["stereo"]}
    return made


def _marks(said: Mapping[str, str], rate: Fraction) -> dict[str, int]:
    made = {}
    for field, key, more in (("first", "in", 0), ("last", "out", 1)):
        if field in said:
            try:
                made[key] = frame_of(said[field], rate) + more
            except ValueError as error:
                raise _wrong(f"{error}.", field) from error
    return made


def _clips(text: str, rate: Fraction) -> Iterator[dict[str, Any]]:
    """Yield clips of "name first to last" parts, between commas or on lines of their own."""
    for number, part in enumerate(filter(None, map(str.strip, re.split(r"[,;\n]", text))), start=1):
        found = CLIP.fullmatch(part)
        if found is None:
            raise _wrong(f"{part} is no clip: write its first and last frame, 24 to 71.", "clips")
        try:
            first, last = (frame_of(found[key], rate) for key in ("first", "last"))
        except ValueError as error:
            raise _wrong(f"{error}.", "clips") from error
        name = (found["name"] or "").strip() or f"clip {number}"
        yield {"name": name, "in": first, "out": last + 1}


def _wrong(text: str, field: str) -> UsageError:
    return UsageError(text, code="bad-recipe", where=field)
