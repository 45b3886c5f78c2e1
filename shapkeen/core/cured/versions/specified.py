"""A recipe held against the delivery specification that it was made for."""

from collections.abc import Iterator
from fractions import Fraction

from ...errors import UsageError
from ...promised.specification import LIGHTS, Specification, shipped_specifications
from .picture.maker import Samples
from .recipe import Recipe


def shipped_specification(key: str) -> Specification | None:
    """Return the specification of a key that ships; None for an empty key.

    Raises UsageError where there is none.
    """
    if not key:
        return None
    known = shipped_specifications()
    for one in known:
        if one.key == key:
            return one
    names = ", ".join(one.key for one in known)
    raise UsageError(
        f"There is no such specification; known are {names}.",
        code="bad-recipe",
        where="specification",
    )


def departures(
    recipe: Recipe,
    specification: Specification | None,
    profile: str,
    goal: Samples,
    rate: Fraction,
) -> Iterator[tuple[str, str]]:
    """Yield where a recipe leaves its specification, and how; nothing where it has none."""
    if specification is None:
        return
    spec, coding = specification, recipe.coding
    taken = [(one.codec, one.profile) for one in spec.codecs]
    if (coding.codec, profile) not in taken:
        words = ", ".join(" ".join(one) for one in taken)
        yield "coding.codec", f"{spec.name} takes {words}; this is {coding.codec} {profile}."
    if recipe.wrapper not in spec.wrappers:
        yield "wrapper", f"{spec.name} takes {', '.join(spec.wrappers)}."
    if coding.bit_rate is not None and not _within(coding.bit_rate, spec):
        low, high = (spec.bit_rate.least or 0) / 1e6, (spec.bit_rate.most or 0) / 1e6
        most = f" to {high:g}" if high else ""
        yield "coding.bit_rate", f"{spec.name} takes {low:g}{most} Mb/s."
    yield from _picture_departures(spec, goal, rate)


def _within(bit_rate: int, spec: Specification) -> bool:
    return (spec.bit_rate.least or 0) <= bit_rate <= (spec.bit_rate.most or bit_rate)


def _picture_departures(
    spec: Specification, goal: Samples, rate: Fraction
) -> Iterator[tuple[str, str]]:
    if spec.rasters and goal.raster not in spec.rasters:
        sizes = ", ".join(f"{w}×{h}" for w, h in spec.rasters)
        yield "promise/raster", f"{spec.name} takes {sizes}."
    most = spec.most_raster
    if most and (goal.raster[0] > most[0] or goal.raster[1] > most[1]):
        yield "promise/raster", f"{spec.name} takes {most[0]}×{most[1]} at most."
    lights = [LIGHTS[light] for light in spec.light]
    hdr = goal.coding.transfer if goal.coding.transfer in (16, 18) else LIGHTS["sdr"]
    if hdr not in lights:
        yield "promise/transfer", f"{spec.name} takes {', '.join(spec.light)}."
    if spec.frame_rates and rate not in spec.frame_rates:
        rates = ", ".join(f"{float(one):g}" for one in spec.frame_rates)
        yield "promise/frame_rate", f"{spec.name} takes {rates} frames/s."
    if goal.depth < spec.bit_depth and hdr != LIGHTS["sdr"]:
        yield "coding.bit_depth", f"{spec.name} takes {spec.bit_depth} bits and more."
