"""Recipes as JSON text (`shapkeen.recipe/1`), read strictly; what is as usual is left out."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import cattrs

from ...colour.cube_file import read_cube
from ...colour.packed_table import packed, unpacked
from ...colour.tone_maps import TONE_MAPS
from ...errors import UsageError
from ...promised import Promise, promise_from_json, promise_to_json
from ...promised.json_text import read_json, strict_converter
from .naming import USUAL_PATTERN, pattern_fault
from .picture.burning import MOST_TEXT, NOTHING, BurnIn
from .recipe import Clip, Coding, Light, Recipe, Scaling, Sound

SCHEMA, PROMISE_SCHEMA = "shapkeen.recipe/1", "shapkeen.promise/1"
MAX_FILE_BYTES = 2 * 1024 * 1024
MOST_TABLE_BYTES = 16 * 1024 * 1024
FRAGMENTED = ("mp4", "mov")
MOST_NAME, MOST_CLIP_NAME, MOST_CLIPS = 80, 40, 100

_CONVERTER = strict_converter()
PARTS = {"coding": Coding, "light": Light, "scaling": Scaling, "burn_in": BurnIn}
KEYS = frozenset(
    {"schema", "name", "specification", "promise", "wrapper", "in", "out", "sound", *PARTS}
    | {"loudness_lufs", "clips", "file", "fragments"}
)


def read_recipe_file(path: Path) -> Recipe:
    """Return the recipe that a file holds; raises UsageError saying what is wrong where."""
    try:
        with path.open("rb") as file:  # bounded: what is no plain file may never end
            data = file.read(MAX_FILE_BYTES + 1)
        text = data.decode()
    except (OSError, UnicodeDecodeError) as error:
        raise _refuse(f"The recipe cannot be read: {error}.", path.name) from error
    return recipe_from_json(with_table_beside(text, path.parent))


def with_table_beside(text: str, folder: Path) -> str:
    """Return a recipe's text with the table that it names by a file beside it taken in."""
    data: Any = read_json(text)
    light = data.get("light") if isinstance(data, dict) else None
    name = light.get("table") if isinstance(light, dict) else None
    if not isinstance(name, str) or not name.lower().endswith(".cube"):
        return text
    if Path(name).name != name:
        raise _refuse("A table's file stands beside the recipe: its name alone.", "light.table")
    try:
        with (folder / name).open("rb") as file:
            told = file.read(MOST_TABLE_BYTES).decode()
    except (OSError, UnicodeDecodeError) as error:
        raise _refuse(f"{name} cannot be read: {error}.", "light.table") from error
    values = packed_cube(told, name)
    told_light = {**data["light"], "table": values, "table_name": name}
    return json.dumps({**data, "light": told_light})


def packed_cube(text: str, name: str) -> str:
    """Return a .cube file's table, packed; raises UsageError for what is none."""
    try:
        return packed(read_cube(text))
    except ValueError as error:
        raise _refuse(f"{name}: {error}", "light.table") from error


def recipe_from_json(text: str) -> Recipe:
    """Return the recipe in a JSON text; raises UsageError with the place of the first fault."""
    if len(text) > MAX_FILE_BYTES:
        raise _refuse("A recipe is at most 2 MiB.", "recipe")
    data = read_json(text)
    if not isinstance(data, dict) or data.get("schema") != SCHEMA:
        raise _refuse(f'A recipe starts with "schema": "{SCHEMA}".', "schema")
    unknown = sorted(set(data) - KEYS)
    if unknown:
        raise _refuse(f"Unknown key; known are {', '.join(sorted(KEYS))}.", unknown[0])
    name = data.get("name")
    if not isinstance(name, str) or not name.strip() or len(name) > MOST_NAME:
        raise _refuse(f"A name has 1 to {MOST_NAME} signs.", "name")
    if "coding" not in data:
        raise _refuse('A recipe needs "coding", with at least a codec.', "coding")
    parts: dict[str, Any] = {
        key: _part(kind, data[key], key) for key, kind in PARTS.items() if key in data
    }
    made = Recipe(
        name=name.strip(),
        wrapper=_word(data, "wrapper", "mp4"),
        specification=_word(data, "specification", ""),
        promise=_promise(data.get("promise", {}), name.strip()),
        sound=_sound(data),
        first=_frame(data, "in"),
        end=_frame(data, "out"),
        clips=_clips(data),
        file=_word(data, "file", USUAL_PATTERN),
        fragments=_truth(data, "fragments"),
        **parts,
    )
    _check(made)
    return made


def _part(kind: type, value: object, where: str) -> Any:
    try:
        return _CONVERTER.structure(value, kind)
    except cattrs.BaseValidationError as error:
        first, _, place = cattrs.transform_error(error)[0].rpartition(" @ ")
        at = f"{where}.{place.removeprefix('$').lstrip('.')}".rstrip(".")
        raise _refuse(f"{first[:1].upper()}{first[1:]}.", at) from error


def _word(data: Mapping[str, object], key: str, usual: str) -> str:
    value = data.get(key, usual)
    if not isinstance(value, str):
        raise _refuse("This must be a word.", key)
    return value


def _truth(data: Mapping[str, object], key: str) -> bool:
    value = data.get(key, False)
    if not isinstance(value, bool):
        raise _refuse("This is true or false.", key)
    return value


def _frame(data: Mapping[str, object], key: str) -> int | None:
    value = data.get(key)
    if value is None:
        return None
    if not isinstance(value, int) or isinstance(value, bool) or value < 0:
        raise _refuse("A mark is a frame of the master, 0 or more.", key)
    return value


def _clips(data: Mapping[str, object]) -> tuple[Clip, ...]:
    said = data.get("clips", [])
    if not isinstance(said, list) or len(said) > MOST_CLIPS:
        raise _refuse(f"Clips are a list of at most {MOST_CLIPS}.", "clips")
    made = []
    for number, clip in enumerate(said):
        where = f"clips/{number}"
        if not isinstance(clip, dict) or set(clip) != {"name", "in", "out"}:
            raise _refuse('A clip is {"name", "in", "out"}.', where)
        first, end, name = _frame(clip, "in"), _frame(clip, "out"), clip["name"]
        if first is None or end is None or end <= first:
            raise _refuse("A clip's mark out lies behind its mark in.", where)
        if not isinstance(name, str) or not 1 <= len(name.strip()) <= MOST_CLIP_NAME:
            raise _refuse(f"A clip's name has 1 to {MOST_CLIP_NAME} signs.", where)
        made.append(Clip(name.strip(), first, end))
    if len({clip.name for clip in made}) < len(made):
        raise _refuse("Two clips have one name: their files would, too.", "clips")
    if made and ("in" in data or "out" in data):
        raise _refuse("Clips have their own marks: leave the recipe's out.", "clips")
    return tuple(made)


def _sound(data: Mapping[str, object]) -> Sound:
    """Return the sound's part: an object, or its codec as one word beside `loudness_lufs`."""
    said = data.get("sound", {})
    plain = {"codec": said} if isinstance(said, str) else said
    if not isinstance(plain, dict):
        raise _refuse("The sound is copy, aac, pcm, opus or none, or an object.", "sound")
    if "loudness_lufs" in data:
        plain = {"loudness_lufs": data["loudness_lufs"], **plain}
    made: Sound = _part(Sound, plain, "sound")
    return made


def _promise(value: object, name: str) -> Promise:
    """Return the traits: as a promise file holds them, with its frame or without."""
    traits = value.get("traits") if isinstance(value, dict) and "schema" in value else value
    text = json.dumps({"schema": PROMISE_SCHEMA, "traits": traits})
    try:
        return promise_from_json(text, origin=f"recipe {name}")
    except UsageError as error:
        raise _refuse(error.text, f"promise/{error.where}".replace("traits/", "")) from error


def _check(made: Recipe) -> None:
    """Raise UsageError for what no version can be, whatever its master."""
    if made.fragments and made.wrapper not in FRAGMENTED:
        raise _refuse(f"Fragments are written in {' and '.join(FRAGMENTED)}.", "fragments")
    if fault := pattern_fault(made.file):
        raise _refuse(fault, "file")
    if made.first is not None and made.end is not None and made.end <= made.first:
        raise _refuse("The mark out lies behind the mark in: at least one frame remains.", "out")
    if len(made.burn_in.text) > MOST_TEXT or not made.burn_in.text.isprintable():
        raise _refuse(f"A burnt-in line has {MOST_TEXT} signs at most.", "burn_in.text")
    light = made.light
    if light.tone_map not in TONE_MAPS:
        raise _refuse(f"A tone map is one of {', '.join(TONE_MAPS)}.", "light.tone_map")
    if light.table:
        _check_table(made)
    if not 0 < light.white_nits < light.peak_nits <= 10_000:
        raise _refuse("White lies above 0 and below the peak, that at 10 000 at most.", "light")
    _check_sound(made.sound)


def _check_sound(sound: Sound) -> None:
    lufs = sound.loudness_lufs
    if lufs is not None and not -70 <= lufs <= 0:
        raise _refuse("A loudness lies between -70 and 0 LUFS.", "sound.loudness_lufs")
    if sound.is_changed and sound.codec in ("copy", "none"):
        text = "Loudness, channels and sampling change only where sound is coded: aac, pcm or opus."
        raise _refuse(text, "sound.codec")
    if sound.codec == "opus" and sound.sample_rate not in (None, 48_000):
        raise _refuse("Opus is sampled at 48 000 Hz here.", "sound.sample_rate")


def _check_table(made: Recipe) -> None:
    if len(made.light.table_name) > MOST_NAME:
        raise _refuse(f"A table's name has at most {MOST_NAME} signs.", "light.table_name")
    try:
        unpacked(made.light.table)
    except ValueError as error:
        raise _refuse(
            f"The table must be {error}, or a .cube file's name.", "light.table"
        ) from error
    if made.scaling.linear:
        raise _refuse("Light is not known behind a table: scale coded signals.", "scaling.linear")


def recipe_to_json(recipe: Recipe) -> str:
    """Return the recipe as a file's text; what is as usual is left out."""
    data: dict[str, Any] = {"schema": SCHEMA, "name": recipe.name}
    if recipe.specification:
        data["specification"] = recipe.specification
    if recipe.promise.traits:
        data["promise"] = json.loads(promise_to_json(recipe.promise))["traits"]
    data["coding"] = _plainly(recipe.coding)
    data["wrapper"] = recipe.wrapper
    data["sound"] = _plainly(recipe.sound)
    for key, part, usual in (
        ("light", recipe.light, Light()),
        ("scaling", recipe.scaling, Scaling()),
        ("burn_in", recipe.burn_in, NOTHING),
    ):
        if part != usual:
            data[key] = _plainly(part)
    marks = {"in": recipe.first, "out": recipe.end}
    data |= {key: mark for key, mark in marks.items() if mark is not None}
    if recipe.clips:
        data["clips"] = [{"name": c.name, "in": c.first, "out": c.end} for c in recipe.clips]
    if recipe.fragments:
        data["fragments"] = True
    if recipe.file != USUAL_PATTERN:
        data["file"] = recipe.file
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def _plainly(part: object) -> dict[str, Any]:
    made: dict[str, Any] = _CONVERTER.unstructure(part)
    return {key: value for key, value in made.items() if value is not None and value != ""}


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-recipe", where=where)
