"""Mastering display and light level as numbers of their fields: the inverse of declared/st2086.py.

Raises nothing: what lies outside a field's range is taken as near as it can be stated.
"""

from collections.abc import Mapping

from ..declared import TraitValue

Value = Mapping[str, TraitValue]
COLOURS = ("red", "green", "blue", "white")
MOST_16, MOST_32 = 0xFFFF, 0xFFFFFFFF


def display_fields(value: Value) -> dict[str, int]:
    """Return the fields of MASTERING_DISPLAY: steps of 0.00002 and of 0.0001 cd/m²."""
    return _places(value, 50_000) | {
        name: _within(_number(value.get(name)) * 10_000, MOST_32) for name in ("max", "min")
    }


def fixed_point_fields(value: Value) -> dict[str, int]:
    """Return the fields of FIXED_POINT_DISPLAY: 0.16, light 24.8 and 18.14."""
    return _places(value, 65_536) | {
        name: _within(_number(value.get(name)) * scale, MOST_32)
        for name, scale in (("max", 256), ("min", 16_384))
    }


def light_fields(value: Value) -> dict[str, int]:
    """Return MaxCLL and MaxFALL in whole cd/m²."""
    return {name: _within(_number(value.get(name)), MOST_16) for name in ("max_cll", "max_fall")}


def _places(value: Value, scale: int) -> dict[str, int]:
    fields = {}
    for colour in COLOURS:
        place = value.get(colour)
        xy = place if isinstance(place, tuple) and len(place) == 2 else (0.0, 0.0)
        for axis, part in zip("xy", xy, strict=True):
            fields[f"{colour}_{axis}"] = _within(_number(part) * scale, MOST_16)
    return fields


def _number(value: TraitValue | None) -> float:
    return float(value) if isinstance(value, int | float) else 0.0


def _within(value: float, most: int) -> int:
    return min(max(round(value), 0), most)
