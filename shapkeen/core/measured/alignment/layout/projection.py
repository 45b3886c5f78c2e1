"""Which layout a picture's signs tell: a whole sphere, half of one, a cube, or none."""

from collections.abc import Sequence

from ...model import SphereSigns

EQUIRECTANGULAR, HALF, CUBE, FLAT = (
    "equirectangular",
    "half-equirectangular",
    "cubemap",
    "rectilinear",
)
CLOSED, OPEN = 3.0, 3.5
"""Seam in ordinary steps: spheres of photographs show 0.5 to 2.8 from lossless to CRF 30; flat
photographs 4.6 and more."""
LEAST_CONTRAST = 1.8
"""How much more an open seam would show than is there: with less, edges meet by chance."""
SIDE_BY_SIDE, AS_UNLIKE = 2.0, 1.3
"""Edges about as unlike as any other two columns do not meet, however smooth the picture."""
STRETCHED, EVEN = 0.6, 0.68
"""Spheres of photographs show 0.23 to 0.58, flat photographs 0.7 to 1.12."""
POLAR, POLAR_STRETCHED = 0.25, 0.85
"""Where both outermost lines are of one colour, less stretching is enough: a dome's ribs run as
densely at its top as at its foot. Flat photographs show 0.3 and more at one end at least."""
LEAST_JOINTS = 5
"""Of twelve; flat photographs show 2 at most, cubes of photographs 5 to 12."""
POLES = 0.5
"""Half spheres of photographs show 0.01 to 0.39 at their less even end, flat square photographs 0.6
and more."""
WHOLE_SHAPE, HALF_SHAPE, NEAR_SHAPE = 2.0, 1.0, 0.04
"""Width ÷ height of whole and half spheres, and how far pictures may be off that, relative."""


def kind_of(signs: SphereSigns, shape: float) -> str | None:
    """Return the layout that the signs prove; None where they prove none.

    shape: shown width ÷ height of the picture, or of one eye.
    """
    if signs.joints >= LEAST_JOINTS:
        return CUBE
    if signs.stretch is None or signs.seam is None or signs.unrelated is None:
        return None
    closed = signs.seam < CLOSED and signs.unrelated > LEAST_CONTRAST * signs.seam
    polar = max(signs.top, signs.bottom) < POLAR and signs.stretch < POLAR_STRETCHED
    if closed and (polar or signs.stretch < STRETCHED):
        return EQUIRECTANGULAR
    if signs.stretch < STRETCHED:
        square = abs(shape / HALF_SHAPE - 1) < NEAR_SHAPE
        ends = max(signs.top, signs.bottom) < POLES
        return HALF if square and ends and signs.seam > OPEN else None
    chance = signs.seam > SIDE_BY_SIDE and signs.unrelated < AS_UNLIKE * signs.seam
    if signs.stretch > EVEN and (signs.seam > OPEN or chance):
        return FLAT
    return None


def shown_shapes(cell: float, *, packed: bool) -> tuple[float, ...]:
    """Return the shapes that an eye may be shown in.

    cell: width ÷ height of its part of the picture. packed: whether eyes share the picture, and so
    may be at half size.
    """
    return (cell, cell * 2, cell / 2) if packed else (cell,)


def nearest(shapes: Sequence[float], goal: float) -> float:
    """Return the one of some shapes that is nearest to a goal."""
    return min(shapes, key=lambda one: abs(one / goal - 1))
