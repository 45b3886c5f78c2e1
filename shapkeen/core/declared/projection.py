"""Projections as every container states them: bounds and what they make of a sphere.

Source: Spherical Video V2, public format text; RFC 9559 takes its private data over.
"""

from collections.abc import Iterator

from .model import TraitValue

HALF_SPHERE = (0.25, 0.25)
"""A quarter cut off left and right leaves 180 degrees."""


def projection_traits(
    projection: str, bounds: dict[str, float] | None
) -> Iterator[tuple[str, TraitValue]]:
    """State a projection and its bounds; all-zero bounds say nothing."""
    cut = bounds is not None and any(bounds.values())
    if (
        bounds is not None
        and projection == "equirectangular"
        and (bounds["left"], bounds["right"]) == HALF_SPHERE
    ):
        projection = "half-equirectangular"
    yield "projection", projection
    if bounds is not None and cut:
        yield "projection_bounds", {side: round(value, 9) for side, value in bounds.items()}
