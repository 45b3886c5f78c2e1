"""The outline of a file: every element in file order up to the first clusters, and what follows."""

from ...outline import FieldValue, Part, as_fields
from ...window import ShortReadError, Window
from . import elements as ids
from . import names
from .ebml import Element, walk

MAX_PARTS = 2000
MAX_DEPTH = 10
MAX_CLUSTERS = 3
SHOWN_BYTES = 12


def outline_matroska(window: Window) -> tuple[Part, ...]:
    """Return the elements with their values; clusters and cues as single parts."""
    left = [MAX_PARTS]
    return tuple(_master(element, "", 0, left) for element in walk(window) if left[0] > 0)


def _master(element: Element, path: str, depth: int, left: list[int]) -> Part:
    """Return a master with its values as fields and the masters inside as parts."""
    left[0] -= 1
    name, kind = names.NAMES.get(element.id, (f"{element.id:X}", names.BYTES))
    where = f"{path}/{name}" if path else name
    fields: list[tuple[str, FieldValue]] = []
    parts: list[Part] = []
    if kind == names.MASTER and depth < MAX_DEPTH:
        clusters = 0
        for child in element.children():
            clusters += child.id == ids.CLUSTER
            if left[0] <= 0 or clusters > MAX_CLUSTERS:
                break
            if _is_part(child):
                parts.append(_master(child, where, depth + 1, left))
            else:
                fields.append(_field(child))
    return Part(
        name=name,
        where=where,
        start=element.start,
        size=element.body.end - element.start,
        fields=as_fields(fields),
        parts=tuple(parts),
    )


def _is_part(element: Element) -> bool:
    kind = names.NAMES.get(element.id, ("", names.BYTES))[1]
    return kind == names.MASTER or element.id in ids.LEVEL_ONE


def _field(element: Element) -> tuple[str, FieldValue]:
    name, kind = names.NAMES.get(element.id, (f"{element.id:X}", names.BYTES))
    try:
        if kind == names.WHOLE:
            return name, element.unsigned()
        if kind == names.NUMBER:
            return name, element.number()
        if kind == names.TEXT:
            return name, element.text()
        more = "…" if element.body.size > SHOWN_BYTES else ""
        size = f"{element.body.size} byte{'s' if element.body.size != 1 else ''}"
        return name, f"{element.bytes(SHOWN_BYTES).hex(' ')}{more} ({size})"
    except ShortReadError:
        return name, "ends too soon"
