"""An outline as a JSON object and back: it is read in a process of its own."""

from collections.abc import Mapping, Sequence
from typing import Any

from ...declared import FieldRead, Outline, Part


def outline_object(outline: Outline) -> dict[str, Any]:
    """Return an outline as a JSON object."""
    return {
        "wrapper": [_part_object(part) for part in outline.wrapper],
        "stream": [_part_object(part) for part in outline.stream],
    }


def outline_from_object(stored: Mapping[str, Any]) -> Outline:
    """Return the outline that `outline_object` made an object of."""
    return Outline(wrapper=_parts(stored["wrapper"]), stream=_parts(stored["stream"]))


def _part_object(part: Part) -> dict[str, Any]:
    return {
        "name": part.name,
        "where": part.where,
        "start": part.start,
        "size": part.size,
        "fields": [[field.name, field.value] for field in part.fields],
        "parts": [_part_object(inner) for inner in part.parts],
    }


def _parts(stored: Sequence[Mapping[str, Any]]) -> tuple[Part, ...]:
    return tuple(
        Part(
            name=item["name"],
            where=item["where"],
            start=item["start"],
            size=item["size"],
            fields=tuple(FieldRead(name, value) for name, value in item["fields"]),
            parts=_parts(item["parts"]),
        )
        for item in stored
    )
