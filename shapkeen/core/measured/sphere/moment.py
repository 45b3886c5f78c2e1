"""What one moment of both files shows of a sphere."""

from dataclasses import dataclass, replace

import numpy as np

from ..decoded.grid import Real, Rect, Reduced, sample
from ..eyes.cells import cells_of
from ..eyes.matching import LEAST_LIKENESS, fit
from ..model import Horizon, SphereSigns, SphereViews
from ..placed.laying import Laying
from ..placed.registration import is_textured
from .horizon import horizon_of
from .seam import Edges, SeamStep, added_step, edges_of
from .signs import signs_of
from .turning import yaw_between
from .views import views_of

BESIDE_SAMPLES = 2.0
"""A whole sphere that lies off by less was turned by a part of a sample; by more it was cut."""
JOINED = 8
"""Columns of the other edge laid to each."""
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
    whole = replace(laying, rect=Rect()).planes(*pair, step=2)
    own, other = (cells_of(planes["luma"], way)[0] for planes in whole)
    columns = whole[0]["luma"].shape[1]
    off, grown = -laying.rect.left * columns, abs(laying.rect.width - 1) * columns
    if max(abs(off), grown) < BESIDE_SAMPLES:
        own = _gone_round(own, off)
        return added_step(own, other, Edges(edges_of(own), edges_of(other)))
    # A cut one: both edges are those of the whole pictures, which do not lie sample on sample.
    expected, delivered = (
        cells_of(planes["luma"], way)[0] for planes in laying.planes(*pair, step=2)
    )
    return added_step(expected, delivered, Edges(edges_of(own), edges_of(other)))


def _gone_round(luma: Real, by: float) -> Real:
    """Return a sphere's luma gone to the left by some samples, its edges joined."""
    height, width = luma.shape
    joined = np.concatenate([luma[:, -JOINED:], luma, luma[:, :JOINED]], axis=1)
    across = width + 2 * JOINED
    return sample(joined, Rect((JOINED + by) / across, 0, width / across, 1), (width, height))
