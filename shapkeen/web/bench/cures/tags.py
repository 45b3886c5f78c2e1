"""Tags set by hand: what a form asks for, and what a copy of the file would say then."""

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction

from ....core.colour.primaries import CHROMATICITIES
from ....core.cured import checked
from ....core.declared import Declaration, TraitValue
from ....core.errors import UsageError
from ....core.measured import LightLevels
from ....core.promised import trait_by_name
from ....core.promised.choices import CHOICES, Choice
from .words import said_now, title_of

LEAVE, CLEAR, SAY = "", "null", "say"
KIND = "kind"
KINDS = {
    "SDR, BT.709": {"primaries": 1, "transfer": 1, "matrix": 1, "range": "limited"},
    "HDR, PQ in BT.2020": {"primaries": 9, "transfer": 16, "matrix": 9, "range": "limited"},
    "HDR, HLG in BT.2020": {"primaries": 9, "transfer": 18, "matrix": 9, "range": "limited"},
}
"""Sets of code points that deliveries ask for as one: ITU-R BT.709, BT.2100."""
WHITE = (0.3127, 0.329)
DISPLAYS = {"P3-D65": 12, "BT.2020": 9, "BT.709": 1}
MOST_SIGNS = 400
Values = Mapping[str, TraitValue]


@dataclass(frozen=True, slots=True)
class Field:
    """One trait of the form, as core.promised.choices has its values."""

    name: str
    group: str
    choices: Mapping[str, str]
    parts: Mapping[str, str]
    listed: bool = False


GROUPS: Mapping[str, tuple[str, ...]] = {
    "Light and colour": (
        *("primaries", "transfer", "matrix", "range", "alternative_transfer", "content_light"),
        *("mastering_display", "chroma_location"),
    ),
    "Shape": ("pixel_aspect", "display_size", "clean_aperture", "rotation", "mirror", "scan"),
    "Sphere": ("projection", "projection_bounds", "pose"),
    "Eyes": ("stereo",),
    "Carriage": ("index_first",),
}
"""Traits that a tag can say, by group."""
DISPLAY = Choice(
    {f'"{name}"': f"{name}, with" for name in DISPLAYS}, {"max": "peak", "min": "black"}
)


def _field(group: str, name: str) -> Field:
    found = DISPLAY if name == "mastering_display" else CHOICES[name]
    return Field(name, group, found.choices, found.parts, found.listed)


FIELDS = tuple(_field(group, name) for group, names in GROUPS.items() for name in names)


@dataclass(frozen=True, slots=True)
class Part:
    """One number of a row: the name of its input, in words, and what was typed."""

    name: str
    words: str
    typed: str


@dataclass(frozen=True, slots=True)
class Row:
    """One trait as the form shows it: what both witnesses say now, and what may be said."""

    name: str
    title: str
    wrapper: str
    stream: str
    unit: str
    options: tuple[tuple[str, str, bool], ...]
    parts: tuple[Part, ...]


def groups_of(
    declared: Declaration, said: Mapping[str, str], light: LightLevels | None
) -> list[tuple[str, list[Row]]]:
    """Return the rows of the form by group. said: what was sent; light: as measured."""
    groups: dict[str, list[Row]] = {}
    for field in FIELDS:
        if field.name == "index_first" and declared.file.index_first is None:
            continue
        groups.setdefault(field.group, []).append(_row(field, declared, said, light))
    return list(groups.items())


def kinds_of(said: Mapping[str, str]) -> list[tuple[str, bool]]:
    """Return the sets of code points, and which is chosen."""
    return [(name, said.get(KIND) == name) for name in KINDS]


def _row(
    field: Field, declared: Declaration, said: Mapping[str, str], light: LightLevels | None
) -> Row:
    trait = trait_by_name(field.name)
    unit = trait.unit if trait else ""
    chosen = said.get(field.name, LEAVE)
    options = [(value, words, value == chosen) for value, words in _options(field, light)]
    parts = tuple(
        Part(f"{field.name}.{name}", words, said.get(f"{field.name}.{name}", ""))
        for name, words in field.parts.items()
    )
    now = said_now(declared, field.name)
    return Row(field.name, title_of(field.name), *now, unit, tuple(options), parts)


def _options(field: Field, light: LightLevels | None) -> Iterator[tuple[str, str]]:
    yield LEAVE, "leave as it is"
    if field.name != "index_first":
        yield CLEAR, "say nothing"
    if field.name == "content_light" and light is not None:
        measured = {"max_cll": round(light.max_cll), "max_fall": round(light.max_fall)}
        words = f"as measured: {measured['max_cll']} / {measured['max_fall']}"
        yield json.dumps(measured), words
    yield from field.choices.items()
    if field.parts and field.name != "mastering_display":
        yield SAY, "say:"


def wishes_of(said: Mapping[str, str]) -> dict[str, TraitValue | None]:
    """Return what a form asks for; raises UsageError for a value that its trait cannot have."""
    wishes: dict[str, TraitValue | None] = {}
    for name, value in KINDS.get(said.get(KIND, ""), {}).items():
        wishes[name] = checked(name, value)
    for field in FIELDS:
        chosen = said.get(field.name, LEAVE)[:MOST_SIGNS]
        typed = [said.get(f"{field.name}.{name}", "").strip() for name in field.parts]
        if chosen == CLEAR:
            wishes[field.name] = None
        elif chosen == SAY or (chosen == LEAVE and any(typed)):
            wishes[field.name] = checked(field.name, _typed(field, typed))
        elif field.name == "mastering_display" and chosen:
            wishes[field.name] = checked(field.name, _display(field, chosen, typed))
        elif chosen:
            wishes[field.name] = checked(field.name, _json(field, chosen))
    return wishes


def _json(field: Field, text: str) -> object:
    try:
        return json.loads(text)
    except ValueError as error:
        raise _refused(field, "Choose one of the values.") from error


def _typed(field: Field, typed: list[str]) -> object:
    numbers = [_number(field, text) for text in typed]
    if field.listed:
        return numbers
    if field.name == "clean_aperture":
        return {name: _fraction(n) for name, n in zip(field.parts, numbers, strict=True)}
    return dict(zip(field.parts, numbers, strict=True))


def _number(field: Field, text: str) -> int | float:
    try:
        number = float(text.replace(",", ".")) if text else 0.0
    except ValueError as error:
        raise _refused(field, f"“{text[:40]}” is no number.") from error
    return int(number) if number.is_integer() and abs(number) < 2**31 else number


def _fraction(number: float) -> list[int]:
    return list(Fraction(number).limit_denominator(1000).as_integer_ratio())


def _display(field: Field, chosen: str, typed: list[str]) -> object:
    name = _json(field, chosen)
    code = DISPLAYS.get(str(name))
    if code is None:
        raise _refused(field, "Choose one of the values.")
    if not all(typed):
        raise _refused(field, "A mastering display has a peak and a black, in cd/m².")
    red, green, blue = (list(xy) for xy in CHROMATICITIES[code][:3])
    peak, black = (_number(field, text) for text in typed)
    place = {"red": red, "green": green, "blue": blue, "white": list(WHITE)}
    return {**place, "max": peak, "min": black}


def _refused(field: Field, why: str) -> UsageError:
    return UsageError(f"{title_of(field.name)}: {why}", code="bad-wish", where=field.name)
