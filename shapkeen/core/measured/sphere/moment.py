"""What one moment of both files shows of a sphere."""

from dataclasses import dataclass, replace

import numpy as np

from ..eyes.cells import cells_of
from ..eyes.matching import LEAST_LIKENESS, fit
from ..grid import Real, Rect, Reduced
from ..laying import Laying
from ..model import Horizon, SphereSigns, SphereViews
from ..registration import is_textured
from .horizon import horizon_of
from .seam import Edges, SeamStep, added_step, edges_of
from .signs import signs_of
from .turning import yaw_between
from .views import views_of

BESIDE_SAMPLES = 2.0
"""A whole sphere that lies off by less was turned by a part of a sample; by more it was cut."""
SIDE = 4
"""The outermost quarters are laid over the master's."""


@dataclass(frozen=True, slots=True)
class SphereLook:
    """One moment; pairs are of master and export. None: not to be told.

    tear: by how much lower than on the left the picture stands on the right, in % of its height.
    """

    signs: tuple[SphereSigns, SphereSigns]
    step: SeamStep | None
    yaw: float | None
    horizons: tuple[Horizon | None, Horizon | None]
    tear: float | None
    views: tuple[SphereViews, SphereViews]


def look_round(pair: tuple[Reduced, Reduced], way: str, laying: Laying | None) -> SphereLook | None:
    """Return what the first eye of both pictures shows; None where one has no structure.

    pair: of master and export, laid out alike. way: how eyes share them.
    """
    one, other = (cells_of(reduced.luma, way)[0] for reduced in pair)
    if not (is_textured(one) and is_textured(other)):
        return None
    return SphereLook(
        signs=(signs_of(one), signs_of(other)),
        step=_step(pair, way, laying) if laying else None,
        yaw=yaw_between(one, other),
        horizons=(horizon_of(one), horizon_of(other)),
        tear=_tear(one, other),
        views=(views_of(one), views_of(other)),
    )


def _tear(master: Real, export: Real) -> float | None:
    """Return how much lower than on the left an export's picture stands on the right."""
    width = master.shape[1] // SIDE, export.shape[1] // SIDE
    left = fit(export[:, : width[1]], master[:, : width[0]])
    right = fit(export[:, -width[1] :], master[:, -width[0] :])
    if min(left.likeness, right.likeness) < LEAST_LIKENESS:
        return None
    return round((right.dy - left.dy) * 100, 3)


def _step(pair: tuple[Reduced, Reduced], way: str, laying: Laying) -> SeamStep | None:
    expected, delivered = (
        cells_of(planes["luma"], way)[0] for planes in laying.planes(*pair, step=2)
    )
    # Both edges are those of the whole pictures, which need not lie sample on sample.
    whole = replace(laying, rect=Rect()).planes(*pair, step=2)
    own, other = (cells_of(planes["luma"], way)[0] for planes in whole)
    off = -laying.rect.left * whole[0]["luma"].shape[1]
    grown = abs(laying.rect.width - 1) * whole[0]["luma"].shape[1]
    if max(abs(off), grown) < BESIDE_SAMPLES:
        own = _gone_round(own, off)
    return added_step(expected, delivered, Edges(edges_of(own), edges_of(other)))


def _gone_round(luma: Real, by: float) -> Real:
    """Return a sphere's luma gone to the left by a part of a sample, edges meeting."""
    whole = int(np.floor(by))
    here, there = (np.roll(luma, -(whole + n), axis=1) for n in (0, 1))
    return np.asarray(here + (there - here) * np.float32(by - whole), np.float32)
