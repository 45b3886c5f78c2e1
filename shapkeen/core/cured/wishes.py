"""What a copy is to say: traits and values, checked before anything is read or written."""

import json
from collections.abc import Mapping, Sequence
from typing import TypeAlias

from ..declared import TraitValue
from ..errors import UsageError
from ..promised import trait_by_name

Wishes: TypeAlias = Mapping[str, TraitValue | None]
"""Trait → the value that the copy is to state; None takes the statement away."""

COLOUR_CODES = ("primaries", "transfer", "matrix")
SPHERE = frozenset({"projection", "projection_bounds", "pose"})
SAYABLE = frozenset(
    {
        *COLOUR_CODES,
        *SPHERE,
        "range",
        "alternative_transfer",
        "mastering_display",
        "content_light",
        "chroma_location",
        "pixel_aspect",
        "clean_aperture",
        "display_size",
        "rotation",
        "mirror",
        "scan",
        "stereo",
        "index_first",
    }
)
"""Traits that a header can state; others are made by coding, and no copy can change them."""
MOST_LIGHT = 65535
HALF_BOUNDS = 0.25


def read_wishes(said: Sequence[str]) -> dict[str, TraitValue | None]:
    """Return the wishes of `TRAIT=VALUE` words, VALUE being JSON.

    Raises UsageError for a word of another form, an unknown trait, one that comes twice, and a
    value that the trait cannot have.
    """
    wishes: dict[str, TraitValue | None] = {}
    for word in said:
        name, sign, text = word.partition("=")
        if not sign:
            raise _refused(word, "give a trait and its value, as in transfer=16")
        if name in wishes:
            raise _refused(word, f"{name} is given twice; say once what it shall be")
        wishes[name] = checked(name, _from_json(name, text))
    return wishes


def _from_json(name: str, text: str) -> object:
    try:
        return json.loads(text, parse_constant=_no_constant)
    except ValueError as error:
        raise _refused(
            name, f'{text} is no JSON; words need quotes, as in stereo="mono"'
        ) from error


def _no_constant(word: str) -> object:
    raise ValueError(word)


def checked(name: str, value: object) -> TraitValue | None:
    """Return a wished value in its trait's form; raises UsageError where it cannot be had."""
    trait = trait_by_name(name)
    if trait is None:
        raise _refused(name, "there is no such trait; docs/contract.md lists them")
    if value is None:
        return None
    try:
        kept = trait.form.check(value)
    except ValueError as error:
        raise _refused(name, f"its value must be {error}") from error
    fault = _fault(name, kept)
    if fault:
        raise _refused(name, fault)
    return kept


def _fault(name: str, value: TraitValue) -> str:
    """Return why a value of the right form can be stated nowhere."""
    if name == "index_first" and not value:
        return "an index is never moved behind the picture"
    if name == "mirror" and not value:
        return "a picture that is not mirrored is stated by silence: mirror=null"
    if name == "content_light" and isinstance(value, Mapping):
        figures = [value.get(key) for key in ("max_cll", "max_fall")]
        if any(not isinstance(one, int | float) or not 0 <= one <= MOST_LIGHT for one in figures):
            return f"light goes from 0 to {MOST_LIGHT} cd/m²"
    if name == "projection_bounds" and isinstance(value, Mapping):
        return _bounds_fault(value)
    return ""


def _bounds_fault(value: Mapping[str, TraitValue]) -> str:
    sides = [value.get(side, 0) for side in ("top", "bottom", "left", "right")]
    if any(not isinstance(one, int | float) or not 0 <= one < 1 for one in sides):
        return "bounds are shares that are cut off: from 0 to less than 1"
    top, bottom, left, right = (float(one) for one in sides if isinstance(one, int | float))
    if top + bottom >= 1 or left + right >= 1:
        return "these bounds overlap: nothing of the sphere would be left"
    return ""


def _refused(where: str, why: str) -> UsageError:
    return UsageError(f"{why[0].upper()}{why[1:]}.", code="bad-wish", where=where)
