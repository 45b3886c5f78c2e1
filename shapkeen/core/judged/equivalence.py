"""When two stated values of a trait are one and the same, rounding and synonyms apart."""

from collections.abc import Mapping

from ..colour.codepoints import mean_the_same
from ..declared import TraitValue
from . import tolerances


def equivalent(trait: str, one: TraitValue, other: TraitValue) -> bool:
    """Return whether two values of a trait say the same to every player."""
    if trait == "mastering_display":
        return equivalent_display(one, other)
    if trait == "pixel_aspect":
        return equivalent_aspect(one, other)
    return mean_the_same(trait, one, other)


def equivalent_aspect(one: TraitValue, other: TraitValue) -> bool:
    """Return whether two pixel aspects show one shape, as nearly as anyone sees."""
    ratios = _quotient(one), _quotient(other)
    if ratios[0] is None or ratios[1] is None:
        return one == other
    return abs(ratios[0] / ratios[1] - 1) <= tolerances.SHAPE_RATIO


def _quotient(value: TraitValue) -> float | None:
    if not isinstance(value, tuple) or len(value) != 2 or not all(value):
        return None
    return int(value[0]) / int(value[1])


def equivalent_display(one: TraitValue | None, other: TraitValue | None) -> bool:
    """Return whether two mastering displays are one, rounding apart."""
    if not isinstance(one, Mapping) or not isinstance(other, Mapping):
        return one == other
    for colour in ("red", "green", "blue", "white"):
        a, b = one.get(colour), other.get(colour)
        if not isinstance(a, tuple) or not isinstance(b, tuple):
            return False
        if any(abs(x - y) > tolerances.CHROMATICITY for x, y in zip(a, b, strict=False)):
            return False
    return all(_same_light(one.get(end), other.get(end)) for end in ("max", "min"))


def _same_light(one: TraitValue | None, other: TraitValue | None) -> bool:
    if not isinstance(one, int | float) or not isinstance(other, int | float):
        return False
    return abs(one - other) <= max(tolerances.LUMINANCE_NITS, tolerances.LUMINANCE_SHARE * one)
