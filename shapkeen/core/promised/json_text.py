"""JSON that people write: read with care, so that whatever comes of it can be kept and shown."""

import json
from typing import Any, TypeVar

import cattrs

from ..errors import UsageError

T = TypeVar("T")
DEEPEST = 12
LARGEST = 1e18
"""Numbers beyond mean nothing here, and do not fit where they are kept."""


def read_json(text: str) -> Any:
    """Return what a JSON text holds.

    Raises UsageError saying what is wrong where: no JSON, numbers that are none or beyond any
    measure, text that is no Unicode, nesting without end.
    """
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _refuse(f"This is no JSON: {error}.", "") from error
    _check(data, "", 0)
    return data


def _check(item: Any, where: str, depth: int) -> None:
    if depth > DEEPEST:
        raise _refuse("Nothing is nested so deeply.", where[:80])
    if isinstance(item, dict):
        for key, value in item.items():
            _check_text(key, where)
            _check(value, f"{where}/{key}" if where else key, depth + 1)
    elif isinstance(item, list):
        for number, value in enumerate(item):
            _check(value, f"{where}[{number}]", depth + 1)
    elif isinstance(item, str):
        _check_text(item, where)
    elif isinstance(item, int | float) and not abs(item) <= LARGEST:
        raise _refuse(f"A number must lie within ±{LARGEST:.0e}.", where)


def _check_text(text: str, where: str) -> None:
    try:
        text.encode()
    except UnicodeEncodeError as error:
        raise _refuse("Half a sign is no text (an unpaired surrogate).", where) from error


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-promise", where=where)


def strict_converter() -> cattrs.Converter:
    """Return a converter that takes values only of the kind they should be, and no unknown key."""
    made = cattrs.Converter(forbid_extra_keys=True)
    for kind in (int, str, bool, float):
        made.register_structure_hook(kind, _plain)
    return made


def _plain(value: object, kind: type) -> Any:
    """Return a value only if it is of the kind already: no "12" for 12, no 1 for true."""
    fits = isinstance(value, kind) and (kind is bool or not isinstance(value, bool))
    if kind is float and isinstance(value, int) and not isinstance(value, bool):
        return float(value)
    if not fits:
        raise TypeError(f"{value!r} is no {kind.__name__}")
    return value


def structured(
    text: str,
    kind: type[T],
    converter: cattrs.Converter,
    *,
    schema: str,
    noun: str,
    most_bytes: int,
) -> tuple[T, dict[str, Any]]:
    """Return what a JSON text of a schema describes, and the values as they were read.

    noun: what it is called ("stand-in"). Raises UsageError, code: "bad-NOUN", saying what is wrong
    where.
    """

    def refuse(words: str, where: str) -> UsageError:
        return UsageError(words, code=f"bad-{noun}", where=where)

    if len(text) > most_bytes:
        raise refuse(f"A {noun} is at most {most_bytes // 1024} KiB.", noun)
    try:
        data = read_json(text)
    except UsageError as error:
        raise refuse(error.text, error.where.replace("/", ".") or noun) from error
    if not isinstance(data, dict) or data.pop("schema", None) != schema:
        raise refuse(f'A {noun} starts with "schema": "{schema}".', "schema")
    try:
        made = converter.structure(data, kind)
    except cattrs.BaseValidationError as error:
        first, _, place = cattrs.transform_error(error)[0].rpartition(" @ ")
        where = place.removeprefix("$").lstrip(".") or noun
        raise refuse(f"{first[:1].upper()}{first[1:]}.", where) from error
    return made, data
