"""A whole comparison as plain JSON and back, so that it can be stored and drawn again."""

from collections.abc import Mapping
from typing import Any, get_args

import cattrs

from ..judged import Comparison
from ..promised.forms import freeze

RECORD_SCHEMA = "shapkeen.record/5"


def _is_trait_value(kind: object) -> bool:
    """Return whether a type is TraitValue, perhaps with None: it alone holds such a mapping."""
    return any("TraitValue" in str(part) for part in get_args(kind))


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter()
    converter.register_structure_hook_func(
        _is_trait_value_union, lambda value, _: None if value is None else freeze(value)
    )
    return converter


def _is_trait_value_union(kind: object) -> bool:
    parts = get_args(kind)
    return int in parts and str in parts and _is_trait_value(kind)


_CONVERTER = _converter()


def record_from_comparison(comparison: Comparison) -> dict[str, Any]:
    """Return the comparison as JSON-ready objects."""
    return {"schema": RECORD_SCHEMA, "comparison": _CONVERTER.unstructure(comparison)}


def comparison_from_record(record: Mapping[str, Any]) -> Comparison:
    """Return the comparison that a record holds.

    Raises ValueError for a record of another schema.
    """
    if record.get("schema") != RECORD_SCHEMA:
        raise ValueError(f"not a {RECORD_SCHEMA}: measure this attempt again")
    return _CONVERTER.structure(record["comparison"], Comparison)
