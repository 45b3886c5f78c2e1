"""The outline of a file: every part and every field found, in file order, as plain values.

Readers record it on the way, so that the page which shows a file says what the verdicts rest on.
"""

from dataclasses import dataclass
from typing import TypeAlias

FieldValue: TypeAlias = int | float | str
MAX_FIELDS = 4096
"""Fields kept of one part: honest headers hold hundreds."""


@dataclass(frozen=True, slots=True)
class FieldRead:
    """One field: its name in the standard, and its value as read."""

    name: str
    value: FieldValue


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One box, element, set or coded unit.

    name: its short name in the standard. where: its path. start: absolute offset in bytes, None
    for a unit inside another. size: in bytes. parts: what stands inside, in file order.
    """

    name: str
    where: str
    size: int
    start: int | None = None
    fields: tuple[FieldRead, ...] = ()
    parts: tuple["Part", ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """All that was found in one file, the two witnesses kept apart."""

    wrapper: tuple[Part, ...]
    stream: tuple[Part, ...]


def as_fields(
    values: "dict[str, FieldValue] | list[tuple[str, FieldValue]]",
) -> tuple[FieldRead, ...]:
    """Return fields from names and values, in their order."""
    pairs = values.items() if isinstance(values, dict) else values
    return tuple(FieldRead(name, value) for name, value in pairs)
