"""What one moment of both files shows of a sphere."""

from dataclasses import dataclass, replace

import numpy as np

from ..alignment.layout.cells import cells_of
from ..alignment.layout.orientation import yaw_between
from ..alignment.layout.projection_signs import signs_of
from ..alignment.layout.view_matching import LEAST_LIKENESS, fit
from ..alignment.picture_map import PictureMap
from ..alignment.place.registration import is_textured
from ..decoded.grid import Real, Rect, Reduced, sample
from ..model import Horizon, SphereEnlargements, SphereSigns
from .enlargements import enlargements_of
from .horizon import horizon_of
from .seam import Edges, SeamStep, added_step, edges_of

BESIDE_SAMPLES = 2.0
"""A whole sphere that lies off by less was turned by a part of a sample; by more it was cut."""
JOINED = 8
"""Columns of the other edge laid to each."""
SIDE = 4
"""The outermost quarters are laid over the master's."""


@dataclass(frozen=True, slots=True)
class SphereView:
    """One moment; pairs are of master and export. None: not to be told.

    tear: by how much lower than on the left the picture stands on the right, in % of its height.
    """

    signs: tuple[SphereSigns, SphereSigns]
    step: SeamStep | None
    yaw: float | None
    horizons: tuple[Horizon | None, Horizon | None]
    tear: float | None
    views: tuple[SphereEnlargements, SphereEnlargements]


def measure_sphere_view(
    pair: tuple[Reduced, Reduced], way: str, picture_map: PictureMap | None
) -> SphereView | None:
    """Return what the first eye of both pictures shows; None where one has no structure.

    pair: of master and export, laid out alike. way: how eyes share them.
    """
    master, export = (cells_of(reduced.luma, way)[0] for reduced in pair)
    if not (is_textured(master) and is_textured(export)):
        return None
    return SphereView(
        signs=(signs_of(master), signs_of(export)),
        step=_step(pair, way, picture_map) if picture_map else None,
        yaw=yaw_between(master, export),
        horizons=(horizon_of(master), horizon_of(export)),
        tear=_tear(master, export),
        views=(enlargements_of(master), enlargements_of(export)),
    )


def _tear(master: Real, export: Real) -> float | None:
    """Return how much lower than on the left an export's picture stands on the right."""
    width = master.shape[1] // SIDE, export.shape[1] // SIDE
    left = fit(export[:, : width[1]], master[:, : width[0]])
    right = fit(export[:, -width[1] :], master[:, -width[0] :])
    if min(left.likeness, right.likeness) < LEAST_LIKENESS:
        return None
    return round((right.dy - left.dy) * 100, 3)


def _step(pair: tuple[Reduced, Reduced], way: str, picture_map: PictureMap) -> SeamStep | None:
    whole = replace(picture_map, rect=Rect()).planes(*pair, step=2)
    own, other = (cells_of(planes["luma"], way)[0] for planes in whole)
    columns = whole[0]["luma"].shape[1]
    off, grown = -picture_map.rect.left * columns, abs(picture_map.rect.width - 1) * columns
    if max(abs(off), grown) < BESIDE_SAMPLES:
        own = _rolled(own, off)
        return added_step(own, other, Edges(edges_of(own), edges_of(other)))
    # A cut one: both edges are those of the whole pictures, which do not lie sample on sample.
    expected, delivered = (
        cells_of(planes["luma"], way)[0] for planes in picture_map.planes(*pair, step=2)
    )
    return added_step(expected, delivered, Edges(edges_of(own), edges_of(other)))


def _rolled(luma: Real, by: float) -> Real:
    """Return a sphere's luma gone to the left by some samples, its edges joined."""
    height, width = luma.shape
    joined = np.concatenate([luma[:, -JOINED:], luma, luma[:, :JOINED]], axis=1)
    across = width + 2 * JOINED
    return sample(joined, Rect((JOINED + by) / across, 0, width / across, 1), (width, height))
