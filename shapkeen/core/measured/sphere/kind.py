"""Which layout a picture's signs tell: a whole sphere, half of one, a cube, or none."""

from ..model import SphereSigns

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
"""How much more an open seam would show than what is there: with less, edges of one level meet by
chance."""
BESIDE, AS_UNLIKE = 2.0, 1.3
"""Edges that are about as unlike as any other two columns do not meet, however smooth the
picture."""
STRETCHED, EVEN = 0.6, 0.68
"""Spheres of photographs show 0.23 to 0.58, flat photographs 0.7 to 1.12."""
POLAR, POLAR_STRETCHED = 0.25, 0.85
"""Where both outermost lines are of one colour, less stretching is enough: a dome's ribs run as
densely at its top as at its foot. Flat photographs show 0.3 and more at one end at least."""
LEAST_JOINTS = 5
"""Of twelve; flat photographs show 2 at most, cubes of photographs 5 to 12."""
SQUARE, DOUBLE = 0.04, 0.04
"""How far the shape of half and whole spheres may be off 1:1 and 2:1, relative."""


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
        square = abs(shape - 1) < SQUARE
        return HALF if square and signs.seam > OPEN else None
    chance = signs.seam > BESIDE and signs.unrelated < AS_UNLIKE * signs.seam
    if signs.stretch > EVEN and (signs.seam > OPEN or chance):
        return FLAT
    return None
