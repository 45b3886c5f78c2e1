"""How an export lies against its master, where that is more than a place: eyes, and turned spheres.

Found from a few pictures of each, before anything else is compared: what lies otherwise would fit
no place at all.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ....geometry.packing import FRAME_SEQUENTIAL, MONO, SIDE_BY_SIDE, TOP_BOTTOM, way_of
from ....geometry.sphere import Turn
from ...decoded.grid import Real, Rect, sample
from ...model import Reading, Repacking
from ..place.likeness import GRID, correlation
from ..place.registration import is_textured
from .cells import cells_of
from .frame_sequential import frame_sequential_order, is_frame_sequential
from .orientation import SAME_DEG, find_turn
from .packing import MatchedViews, Packed, match_views, packing_alone
from .projection import (
    EQUIRECTANGULAR,
    HALF,
    HALF_SHAPE,
    WHOLE_SHAPE,
    kind_of,
    nearest,
    shown_shapes,
)
from .projection_signs import middle_of, signs_of
from .repacking import repack
from .view_matching import fit

MOST = 3
"""Pictures of each file that are looked at."""
LEAST_APART = 0.0015
"""Shares of an eye's size: less than judging takes for a shift needs no other layout."""
LEAST_GROWN = 0.004
"""Relative; as LEAST_APART."""
LATE_LEFT = 0.6
"""What another moment must leave unlike, of what the same one leaves, to be the right one."""
SAME_PICTURE = 0.98
"""Correlation of pictures as they lie, from which both hold the same number of views."""
ROUND = frozenset({"equirectangular", "half-equirectangular", "cubemap"})
"""Projections of what surrounds the viewer."""
STRETCHED_SHAPE = 0.25
"""How far the shape of a whole sphere that is stretched may be off, relative."""


@dataclass(frozen=True, slots=True)
class StereoLayout:
    """How both files are laid out, as far as a few pictures tell.

    packed: of master and export. sure: whether the master's eyes told the export's order. sphere:
    whether either is meant to be a sphere, or looks like one. textured: whether there was anything
    to look at. swapped: whether eyes frame after frame follow the other way round. late: by how
    many frames each place's eye is behind, where one of them shows another moment than the other.
    """

    repacking: Repacking
    packed: tuple[Packed, Packed] = (Packed(None), Packed(None))
    sure: bool = False
    sphere: bool = False
    likeness: float | None = None
    textured: bool = True
    swapped: bool = False
    late: tuple[int, ...] = ()

    @property
    def eyes(self) -> bool:
        """Return whether there are two eyes in either file, or are meant to be."""
        return any(one.way not in (None, MONO) for one in self.packed)


def is_meant(readings: tuple[Reading, Reading]) -> bool:
    """Return whether either file is meant to be a sphere, or to hold two eyes."""
    return any(one.projection in ROUND or _two_eyes(one) for one in readings)


def _two_eyes(reading: Reading) -> bool:
    way = way_of(reading.stereo)
    return way is not None and way[0] != MONO


def find_stereo_layout(
    masters: Sequence[Real], exports: Sequence[Real], readings: tuple[Reading, Reading]
) -> StereoLayout:
    """Return how an export lies against its master.

    masters, exports: luma (row, column) of following frames, of the same moments as far as known.
    """
    pairs = [
        pair for pair in zip(masters, exports, strict=False) if all(is_textured(p) for p in pair)
    ]
    if not pairs:
        return StereoLayout(Repacking(), textured=False)
    chosen = pairs[:: max(len(pairs) // MOST, 1)][:MOST]
    ones, others = [pair[0] for pair in chosen], [pair[1] for pair in chosen]
    packed = _both_packed((ones, others), (masters, exports), readings)
    way = packed[0].way if packed[0].way in (SIDE_BY_SIDE, TOP_BOTTOM) else MONO
    shown = seen_layout(ones, way, readings[0].aspect)
    sphere = shown is not None or any(reading.projection in ROUND for reading in readings)
    # Half a sphere that is turned leaves its picture: that is a cut.
    whole = sphere and HALF not in (shown, readings[0].projection)
    layout = StereoLayout(Repacking(), packed, sphere=sphere)
    if packed[0].way == FRAME_SEQUENTIAL:
        order = frame_sequential_order(masters, exports)
        return replace(layout, sure=order.sure, swapped=order.sure and order.swapped)
    turned = _turned(ones, others, way, packed[1].way) if whole else None
    if way == MONO:
        turn, likeness = turned or (Turn(), None)
        return StereoLayout(Repacking(turn=turn), packed, sphere=sphere, likeness=likeness)
    made = _match_views(layout, (ones, others), way, turned)
    if turned and made.repacking.eyes[:1] == (1,):
        # Held against the other eye a sphere seems turned, by as much as the eyes are apart.
        turned = _turned(ones, others, way, made.repacking.ways[1], eye=1)
        made = _match_views(layout, (ones, others), way, turned)
    late = _late(masters, exports, made.repacking) if made.repacking.shifts else ()
    if any(late):
        return replace(made, repacking=replace(made.repacking, shifts=()), late=late)
    return made


def _match_views(
    layout: StereoLayout,
    pictures: tuple[Sequence[Real], Sequence[Real]],
    way: str,
    turned: tuple[Turn, float] | None,
) -> StereoLayout:
    turn = turned[0] if turned else Turn()
    plain = [repack(one, Repacking((way, way), (0, 1), turn)) for one in pictures[0]]
    found = match_views(plain, pictures[1], way, layout.packed[1].way)
    if found is None:
        return layout
    eyes = found.view_order.eyes
    natural = tuple(range(len(eyes)))
    if not found.sure and found.way == way:
        eyes = natural
    return StereoLayout(
        Repacking((way, found.way), eyes, turn, _apart(found)),
        (layout.packed[0], Packed(found.way, same=len(set(eyes)) < len(eyes))),
        sure=found.sure,
        sphere=layout.sphere,
        likeness=turned[1] if turned else None,
    )


def _apart(found: MatchedViews) -> tuple[tuple[float, float, float], ...]:
    """Return how the eyes lie where they went apart; what both did alike is a place."""
    shifts = found.view_order.shifts
    if len(shifts) != 2:
        return ()
    (dx, dy, size), (other_dx, other_dy, other_size) = shifts
    grown = abs(size / other_size - 1) > LEAST_GROWN
    if max(abs(dx - other_dx), abs(dy - other_dy)) <= LEAST_APART and not grown:
        return ()
    return shifts if grown else ((dx, dy, 1.0), (other_dx, other_dy, 1.0))


def _late(
    masters: Sequence[Real], exports: Sequence[Real], repacking: Repacking
) -> tuple[int, ...]:
    """Return by how many frames each place's eye is behind: -1, 0 or 1."""
    at = min(len(masters), len(exports)) // 2
    still = replace(repacking, shifts=())
    if not 0 < at < len(masters) - 1:
        return ()
    moments = {
        late: cells_of(repack(masters[at - late], still), repacking.ways[1]) for late in (0, 1, -1)
    }
    found = []
    for place, cell in enumerate(cells_of(exports[at], repacking.ways[1])):
        left = {late: 1 - fit(cell, eyes[place]).likeness for late, eyes in moments.items()}
        best = min(left, key=lambda late: left[late])
        found.append(best if left[best] < LATE_LEFT * left[0] else 0)
    return tuple(found)


def _both_packed(
    chosen: tuple[Sequence[Real], Sequence[Real]],
    following: tuple[Sequence[Real], Sequence[Real]],
    readings: tuple[Reading, Reading],
) -> tuple[Packed, Packed]:
    """Return how both files are packed; a picture all but the same as one of one view is one."""
    one = _packed(chosen[0], following[0], readings[0])
    alike = (_is_same_picture(*pair) for pair in zip(*chosen, strict=True))
    if one == Packed(MONO) and not is_meant(readings) and all(alike):
        return one, one
    return one, _packed(chosen[1], following[1], readings[1])


def _is_same_picture(one: Real, other: Real) -> bool:
    return correlation(sample(one, Rect(), GRID), sample(other, Rect(), GRID)) > SAME_PICTURE


def _packed(lumas: Sequence[Real], following: Sequence[Real], reading: Reading) -> Packed:
    """Return how one file is packed: by its pixels, or where they can't tell, as it is meant."""
    meant, found = way_of(reading.stereo), packing_alone(lumas)
    if found.way in (SIDE_BY_SIDE, TOP_BOTTOM):
        return found
    if is_frame_sequential(following):
        return Packed(FRAME_SEQUENTIAL)
    if found.way is None and meant is not None:
        return Packed(meant[0])
    return found


def seen_layout(lumas: Sequence[Real], way: str, aspect: float) -> str | None:
    """Return which sphere the first eye looks like, whole or half; None where like neither."""
    eyes = [cells_of(luma, way)[0] for luma in lumas]
    height, width = eyes[0].shape
    shapes = shown_shapes(width / height * aspect, packed=way != MONO)
    whole, half = (nearest(shapes, goal) for goal in (WHOLE_SHAPE, HALF_SHAPE))
    kind = kind_of(middle_of([signs_of(eye) for eye in eyes]), half)
    may_be_whole = abs(whole / WHOLE_SHAPE - 1) <= STRETCHED_SHAPE
    return kind if kind == HALF or (kind == EQUIRECTANGULAR and may_be_whole) else None


def _turned(
    masters: Sequence[Real],
    exports: Sequence[Real],
    way: str,
    export_way: str | None,
    eye: int = 0,
) -> tuple[Turn, float] | None:
    """Return how far the middle picture's sphere is turned, and how alike it is then.

    eye: which of the master's, by place, the export's first one is held against.
    """
    at = len(masters) // 2
    there = export_way if export_way in (SIDE_BY_SIDE, TOP_BOTTOM) else MONO
    master, export = cells_of(masters[at], way)[eye], cells_of(exports[at], there)[0]
    found = find_turn(master, export)
    if found is None:
        return None
    turn = found.turn
    is_still = max(abs(turn.yaw), abs(turn.pitch), abs(turn.roll)) < SAME_DEG
    return (Turn() if is_still else turn), found.likeness
