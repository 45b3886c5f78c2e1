"""What all sampled views of a pair say together: of its sphere, and of its two eyes."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ...geometry.packing import (
    MONO,
    SIDE_BY_SIDE,
    TOP_BOTTOM,
    parts_of,
    way_of,
)
from ...geometry.sphere import Turn
from ..alignment.layout.correspondences import DIFFERENT_SHARE, TWO_VIEWS_SHARE, Correspondences
from ..alignment.layout.packing import Packed
from ..alignment.layout.projection import HALF, HALF_SHAPE, kind_of, nearest, shown_shapes
from ..alignment.layout.projection_signs import middle_of
from ..alignment.layout.stated_packing import (
    packing_in_use,
    packings_of,
    shifts_by_eye,
    stated_packing,
)
from ..alignment.layout.stereo_layout import ROUND, StereoLayout
from ..alignment.time.frame_map import FrameMap
from ..model import (
    Horizon,
    Reading,
    SphereFindings,
    SphereMoment,
    SphereSigns,
    StereoFindings,
    StereoMoment,
)
from ..pair_pass.model import PassFindings, SideFindings
from ..pair_pass.views import SampledView, chosen_views
from ..sphere.moment import SphereView
from ..sphere.seam import SeamStep
from ..stereo.sync import frames_late


def find_stereo(
    found: PassFindings, layout: StereoLayout, readings: tuple[Reading, Reading], frames: FrameMap
) -> StereoFindings | None:
    """Return what all moments say of two eyes; None where none are meant, nor seen.

    frames: which frame of the master an export's is.
    """
    meant = any(stated_packing(reading) for reading in readings)
    if not (layout.eyes or meant):
        return None
    seen = [view.eyes for view in _sampled_views(found, readings[1]) if view.eyes is not None]
    names = packings_of(layout, *readings)
    told = way_of(names[1])
    left_first = told is None or told[1]
    applied = shifts_by_eye(layout, left_first=left_first)
    if layout.packed[1].way in (None, MONO):
        names = names[0], _by_correspondences([one.correspondences[1] for one in seen], names[1])
    return StereoFindings(
        packings=names,
        sure=layout.sure,
        repeated=layout.packed[1].same,
        swapped=layout.swapped,
        late=_late(found, layout, frames, left_first=left_first),
        moments=tuple(_as_mastered(one.moment, applied) for one in seen),
    )


def _as_mastered(
    moment: StereoMoment, applied: Sequence[tuple[float, float, float]]
) -> StereoMoment:
    """Return a moment whose shifts are against the master as it is, not as it was laid out.

    applied: how left and right eye of the master were moved and scaled for that.
    """
    if moment.shifts is None or len(applied) != 2:
        return moment
    left, right = (
        replace(
            one,
            dx=round(one.dx + dx * 100, 4),
            dy=round(one.dy + dy * 100, 4),
            size=round(one.size * size, 5),
        )
        for one, (dx, dy, size) in zip(moment.shifts, applied, strict=True)
    )
    return replace(moment, shifts=(left, right))


def _late(
    found: PassFindings, layout: StereoLayout, frames: FrameMap, *, left_first: bool
) -> tuple[int | None, int | None]:
    """Return by how many frames left and right eye are behind, by all frames or by the opening."""
    way = layout.repacking.ways[1]
    if found.master is None or found.export is None or way not in (SIDE_BY_SIDE, TOP_BOTTOM):
        return None, None
    sides = (found.master.signatures, found.export.signatures)
    late = [frames_late(sides[0], sides[1], frames, way, cell) for cell in (0, 1)]
    if layout.late:
        late = [by if by is not None else told for by, told in zip(late, layout.late, strict=True)]
    return (late[0], late[1]) if left_first else (late[1], late[0])


def _by_correspondences(signs: Sequence[Correspondences], otherwise: str | None) -> str | None:
    """Return one eye where the places that should hold two show different pictures."""
    shares = [one.share for one in signs if one.share is not None]
    if not shares:
        return otherwise
    middle = float(np.median(shares))
    return (
        "mono" if middle <= DIFFERENT_SHARE else (None if middle < TWO_VIEWS_SHARE else otherwise)
    )


def find_sphere(
    found: PassFindings, layout: StereoLayout, readings: Sequence[Reading]
) -> SphereFindings | None:
    """Return what all moments say of a sphere; None where none is meant, nor seen."""
    if not (layout.sphere or any(reading.projection in ROUND for reading in readings)):
        return None
    sampled_views = [
        (one, one.sphere) for one in _sampled_views(found, readings[1]) if one.sphere is not None
    ]
    if not sampled_views:
        return None
    shown = [sphere for _, sphere in sampled_views]
    signs = [[one.signs[side] for one in shown] for side in (0, 1)]
    steps = [one.step for one in shown if one.step is not None]
    worst = max(sampled_views, key=lambda one: _opened(one[1].step))
    turn, residual = layout.repacking.turn, _middle([one.yaw for one in shown])
    return SphereFindings(
        signs=(middle_of(signs[0]), middle_of(signs[1])),
        kinds=(
            _kind(signs[0], readings[0], layout.packed[0], found.master),
            _kind(signs[1], readings[1], layout.packed[1], found.export),
        ),
        turn=turn if residual is None else Turn(turn.yaw + residual, turn.pitch, turn.roll),
        turn_likeness=layout.likeness,
        seam=_middle([step.seam for step in steps]),
        ordinary=_middle([step.ordinary for step in steps]),
        moments=tuple(_moment(view, one) for view, one in sampled_views),
        horizons=(_level(shown, 0), _level(shown, 1)),
        rows=worst[1].step.rows if worst[1].step else (),
        worst_frame=worst[0].export_frame,
        tear=_middle([one.tear for one in shown]),
        views=worst[1].views,
    )


def _opened(step: SeamStep | None) -> float:
    return step.seam / step.ordinary if step else 0.0


def _kind(
    signs: Sequence[SphereSigns], reading: Reading, packed: Packed, file: SideFindings | None
) -> str | None:
    if reading.moves and reading.projection is None:
        return None  # frames rolled to where their cuts lie: their edges meet of themselves
    if reading.projection == HALF or file is None:
        return kind_of(middle_of(signs), HALF_SHAPE)  # meant to be one, however it is stretched
    way, (width, height) = packing_in_use(packed, reading), file.tally.raster
    across, down = parts_of(way)
    cell = width / across / (height / down) * reading.aspect
    half = nearest(shown_shapes(cell, packed=way != MONO), HALF_SHAPE)
    return kind_of(middle_of(signs), half)


def _moment(view: SampledView, shown: SphereView) -> SphereMoment:
    return SphereMoment(
        master_frame=view.master_frame,
        export_frame=view.export_frame,
        seam=round(shown.step.seam, 3) if shown.step else None,
        ordinary=round(shown.step.ordinary, 3) if shown.step else None,
        yaw=shown.yaw,
    )


def _level(sampled_views: Sequence[SphereView], side: int) -> Horizon | None:
    found = [lean for view in sampled_views if (lean := view.horizons[side]) is not None]
    if len(found) * 2 <= len(sampled_views):
        return None
    parts: tuple[Callable[[Horizon], float], ...] = (
        lambda one: one.pitch,
        lambda one: one.roll,
        lambda one: one.clear,
    )
    pitch, roll, clear = (float(np.median([part(one) for one in found])) for part in parts)
    return Horizon(pitch=round(pitch, 2), roll=round(roll, 2), clear=round(clear, 2))


def _sampled_views(found: PassFindings, export: Reading) -> tuple[SampledView, ...]:
    if found.export is None:
        return ()
    each = max(round(float(export.rate)), 1)
    return chosen_views(found.sampled_views, found.export.signatures, each)


def _middle(values: Sequence[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    return round(float(np.median(known)), 4) if known else None
