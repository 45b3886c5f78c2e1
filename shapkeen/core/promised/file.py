"""The promise file: `shapkeen.promise/1`, read with care and written back."""

import json
from collections.abc import Iterable, Mapping
from pathlib import Path

from ..declared import TraitValue
from ..errors import UsageError
from .json_text import read_json
from .model import Promise, Promised
from .traits import Trait, trait_by_name

SCHEMA = "shapkeen.promise/1"
WEIGHTS = ("must", "should")
KEYS = frozenset({"value", "at_least", "at_most", "one_of", "tolerance", "weight", "from"})
MAX_FILE_BYTES = 1024 * 1024


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-promise", where=where)


def read_promise_file(path: Path) -> Promise:
    """Return the promise that a file holds; raises UsageError saying what is wrong where."""
    try:
        # Bounded: what is no plain file states no size, and may never end.
        with path.open("rb") as file:
            data = file.read(MAX_FILE_BYTES + 1)
        if len(data) > MAX_FILE_BYTES:
            raise _refuse("A promise file is at most 1 MiB.", path.name)
        text = data.decode()
    except (OSError, UnicodeDecodeError) as error:
        raise _refuse(f"The promise file cannot be read: {error}.", path.name) from error
    return promise_from_json(text, origin=f"promise file {path.name}")


def promise_from_layers(layers: Iterable[tuple[str, str]]) -> Promise | None:
    """Return the promise of several texts, each with its origin, later ones winning trait by trait.

    None where all are empty. Raises UsageError as promise_from_json.
    """
    traits: dict[str, Promised] = {}
    for text, origin in layers:
        if text.strip():
            traits |= promise_from_json(text, origin=origin).traits
    return Promise(traits=traits) if traits else None


def promise_from_json(text: str, *, origin: str) -> Promise:
    """Return the promise in a JSON text; `origin` is shown beside each value.

    Raises UsageError with the place ("traits/transfer/value") of the first fault.
    """
    data = read_json(text)
    if not isinstance(data, dict) or data.get("schema") != SCHEMA:
        raise _refuse(f'A promise starts with "schema": "{SCHEMA}".', "schema")
    traits = data.get("traits")
    if not isinstance(traits, dict):
        raise _refuse('"traits" must be an object of traits.', "traits")
    return Promise(traits={name: _read_one(name, item, origin) for name, item in traits.items()})


def _read_one(name: str, item: object, origin: str) -> Promised:
    trait = trait_by_name(name)
    if trait is None:
        raise _refuse(f"There is no trait {name!r}.", f"traits/{name}")
    if not isinstance(item, dict):
        raise _refuse('A trait is an object with at least "value".', f"traits/{name}")
    unknown = sorted(set(item) - KEYS)
    if unknown:
        raise _refuse(
            f"Unknown key; known are {', '.join(sorted(KEYS))}.", f"traits/{name}/{unknown[0]}"
        )
    bounds = ("at_least", "at_most", "one_of")
    if "value" not in item and not any(key in item for key in bounds):
        raise _refuse('A trait needs "value", or bounds for it.', f"traits/{name}")
    weight = item.get("weight", "must")
    if weight not in WEIGHTS:
        raise _refuse("The weight must be must or should.", f"traits/{name}/weight")
    return Promised(
        value=_checked(trait, item, "value"),
        origin=origin,
        explicit=True,
        at_least=_checked(trait, item, "at_least"),
        at_most=_checked(trait, item, "at_most"),
        one_of=_choices(trait, item),
        tolerance=_tolerance(name, item),
        weight=str(weight),
        converted_from=_checked(trait, item, "from"),
    )


def _checked(trait: Trait, item: Mapping[str, object], key: str) -> TraitValue | None:
    value = item.get(key)
    if value is None:
        return None
    try:
        return trait.form.check(value)
    except ValueError as error:
        place = f"traits/{trait.name}/{key}"
        raise _refuse(f"{trait.title} must be {error}; here stands {value!r}.", place) from error


def _choices(trait: Trait, item: Mapping[str, object]) -> tuple[TraitValue, ...]:
    choices = item.get("one_of", [])
    if not isinstance(choices, list):
        raise _refuse("one_of must be a list.", f"traits/{trait.name}/one_of")
    found = (_checked(trait, {"one_of": choice}, "one_of") for choice in choices)
    return tuple(value for value in found if value is not None)


def _tolerance(name: str, item: Mapping[str, object]) -> float | None:
    value = item.get("tolerance")
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or value < 0:
        raise _refuse("A tolerance is a number, 0 or more.", f"traits/{name}/tolerance")
    return float(value)


def promise_to_json(promise: Promise) -> str:
    """Return the promise as a promise file, values only where they were written by someone."""
    traits: dict[str, dict[str, object]] = {}
    for name, promised in promise.traits.items():
        entry: dict[str, object] = {"value": promised.value}
        entry |= {
            "at_least": promised.at_least,
            "at_most": promised.at_most,
            "one_of": list(promised.one_of) or None,
            "tolerance": promised.tolerance,
            "from": promised.converted_from,
        }
        traits[name] = {key: value for key, value in entry.items() if value is not None}
        if promised.weight != "must":
            traits[name]["weight"] = promised.weight
    return json.dumps({"schema": SCHEMA, "traits": traits}, ensure_ascii=False, indent=1)
