"""How two eyes share a picture, told from its pixels alone, or against a master's eyes."""

from collections.abc import Sequence
from dataclasses import dataclass

from ....geometry.packing import FRAME_SEQUENTIAL, MONO, SIDE_BY_SIDE, TOP_BOTTOM
from ...decoded.grid import Real
from .cells import cells_of
from .correspondences import find_correspondences
from .view_matching import LEAST_LIKENESS, ViewOrder, view_order

WAYS = (SIDE_BY_SIDE, TOP_BOTTOM)
SURE_LIKENESS = 0.9
LEAST_LEAD = 1.3
"""What the next best seating leaves unlike, ÷ the best: photographed pairs coded at CRF 28 show 2
and more; with next to no parallax both eyes fit alike."""


@dataclass(frozen=True, slots=True)
class Packed:
    """How a picture is packed. way: None = cannot be told. same: both places show one view."""

    way: str | None
    same: bool = False


def packing_alone(lumas: Sequence[Real]) -> Packed:
    """Return how some pictures (row, column, 10-bit codes) of one file are packed."""
    known: list[Packed] = []
    for luma in lumas:
        one = _one_alone(luma)
        known += [one] if one.way is not None else []
        if known and known.count(known[-1]) > len(lumas) // 2:
            return known[-1]  # what the others tell changes nothing
    return max(known, key=lambda one: (known.count(one), one.way != MONO), default=Packed(None))


def _one_alone(luma: Real) -> Packed:
    different = True
    for way in WAYS:
        signs = find_correspondences(*cells_of(luma, way))
        if signs.are_two_views:
            return Packed(way, same=signs.are_same)
        different = different and signs.are_different
    return Packed(MONO if different else None)


@dataclass(frozen=True, slots=True)
class MatchedViews:
    """How an export is packed, and which of the master's eyes sits where."""

    way: str
    view_order: ViewOrder

    @property
    def sure(self) -> bool:
        """Return whether the master's eyes tell the order, and not only the way."""
        return self.view_order.lead >= LEAST_LEAD


def match_views(
    masters: Sequence[Real], exports: Sequence[Real], master_way: str, likely: str | None
) -> MatchedViews | None:
    """Return how an export's pictures hold the eyes of its master's; None if none of them fits.

    masters, exports: luma of the same moments. likely: the way to try first.
    """
    found: list[MatchedViews] = []
    for way in dict.fromkeys((likely or master_way, master_way, *WAYS, MONO)):
        if way == FRAME_SEQUENTIAL:
            continue
        pairs = [
            (cells_of(one, master_way), cells_of(other, way))
            for one, other in zip(masters, exports, strict=True)
        ]
        found.append(MatchedViews(way, view_order(pairs)))
        if found[-1].view_order.likeness > SURE_LIKENESS:
            break
    best = max(found, key=lambda one: one.view_order.likeness)
    return best if best.view_order.likeness >= LEAST_LIKENESS else None
