"""What all looked-at moments of a pair say together: of its sphere, and of its two eyes."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ..geometry.packing import BESIDE, IN_TURN, MONO, STACKED, parts_of, stereo_of, way_of
from ..geometry.sphere import Turn
from .eyes.lateness import frames_late
from .eyes.moment import Sharing
from .eyes.packing import Packed
from .eyes.twins import EYES_SHARE, UNLIKE_SHARE, TwinSigns
from .model import (
    EyesFindings,
    EyesMoment,
    Horizon,
    Reading,
    SphereFindings,
    SphereMoment,
    SphereSigns,
)
from .placed.arranging import ROUND, Laid
from .sphere.kind import HALF, HALF_SHAPE, kind_of, nearest, shown_shapes
from .sphere.moment import SphereLook
from .sphere.seam import SeamStep
from .sphere.signs import middle_of
from .together.model import FileFindings, SpanFindings
from .together.plan import FrameMap
from .together.watch import Look, Watch, chosen_looks


def watch_for(laid: Laid | None, master: Reading, export: Reading) -> Watch | None:
    """Return what to watch for in a pair; None where there is neither a sphere nor a second eye."""
    if laid is None:
        return None
    way = _way(laid.packed[1], export)
    eyes = way != MONO and (laid.eyes or _meant_way(export) == way)
    if not (eyes or laid.sphere):
        return None
    name = packings_of(laid, master, export)[1]
    told = way_of(name) if name else None
    left_first = told is None or told[0] != way or told[1]
    sharing = Sharing(way, left_first, _by_eye(laid, left_first=left_first))
    return Watch(sharing, eyes, laid.sphere, max(round(float(export.rate)), 1))


def _by_eye(laid: Laid, *, left_first: bool) -> tuple[tuple[float, float, float], ...]:
    """Return how the master's left and right eye were moved and scaled, if they were."""
    return laid.arrangement.shifts[:: 1 if left_first else -1]


def _way(packed: Packed, reading: Reading) -> str:
    """Return how eyes share a file's picture, or are meant to, where nothing tells."""
    if packed.way in (BESIDE, STACKED, IN_TURN):
        return packed.way
    return _meant_way(reading) or MONO


def _meant_way(reading: Reading) -> str | None:
    told = way_of(reading.stereo)
    return told[0] if told and told[0] != MONO else None


def packings_of(laid: Laid, master: Reading, export: Reading) -> tuple[str | None, str | None]:
    """Return how eyes are packed in both files in the words of the trait; None: cannot be told.

    Which of a master's eyes is the left one its own flag says; silent ones are left first by
    custom.
    """
    first = _named(laid.packed[0], master)
    there = laid.packed[1]
    if first is None or laid.packed[0].way not in (BESIDE, STACKED):
        return first, _named(there, export)
    if there.way in (BESIDE, STACKED):
        told = way_of(first)
        left = 0 if told is None or told[1] else 1
        return first, stereo_of(there.way, left_first=laid.arrangement.eyes[0] == left)
    return first, _named(there, export)


def _named(packed: Packed, reading: Reading) -> str | None:
    if packed.way is None:
        return None
    told = way_of(reading.stereo)
    left_first = told[1] if told and told[0] == packed.way else True
    return stereo_of(packed.way, left_first=left_first)


def find_eyes(
    found: SpanFindings, laid: Laid, readings: tuple[Reading, Reading], frames: FrameMap
) -> EyesFindings | None:
    """Return what all moments say of two eyes; None where none are meant, nor seen.

    frames: which frame of the master an export's is.
    """
    meant = any(_meant_way(reading) for reading in readings)
    if not (laid.eyes or meant):
        return None
    seen = [look.eyes for look in _looks(found, readings[1]) if look.eyes is not None]
    names = packings_of(laid, *readings)
    told = way_of(names[1])
    left_first = told is None or told[1]
    applied = _by_eye(laid, left_first=left_first)
    if laid.packed[1].way in (None, MONO):
        names = names[0], _by_twins([one.twins[1] for one in seen], names[1])
    return EyesFindings(
        packings=names,
        sure=laid.sure,
        repeated=laid.packed[1].same,
        swapped=laid.swapped,
        late=_late(found, laid, frames, left_first=left_first),
        moments=tuple(_as_mastered(one.moment, applied) for one in seen),
    )


def _as_mastered(moment: EyesMoment, applied: Sequence[tuple[float, float, float]]) -> EyesMoment:
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
    found: SpanFindings, laid: Laid, frames: FrameMap, *, left_first: bool
) -> tuple[int | None, int | None]:
    """Return by how many frames left and right eye are behind, by all frames or by the opening."""
    way = laid.arrangement.ways[1]
    if found.master is None or found.export is None or way not in (BESIDE, STACKED):
        return None, None
    sides = [(side.numbers, side.marks) for side in (found.master, found.export)]
    late = [frames_late(sides[0], sides[1], frames, way, cell) for cell in (0, 1)]
    if laid.late:
        late = [by if by is not None else told for by, told in zip(late, laid.late, strict=True)]
    return (late[0], late[1]) if left_first else (late[1], late[0])


def _by_twins(signs: Sequence[TwinSigns], otherwise: str | None) -> str | None:
    """Return one eye where the places that should hold two show different pictures."""
    shares = [one.share for one in signs if one.share is not None]
    if not shares:
        return otherwise
    middle = float(np.median(shares))
    return "mono" if middle <= UNLIKE_SHARE else (None if middle < EYES_SHARE else otherwise)


def find_sphere(
    found: SpanFindings, laid: Laid, readings: Sequence[Reading]
) -> SphereFindings | None:
    """Return what all moments say of a sphere; None where none is meant, nor seen."""
    if not (laid.sphere or any(reading.projection in ROUND for reading in readings)):
        return None
    looks = [(one, one.sphere) for one in _looks(found, readings[1]) if one.sphere is not None]
    if not looks:
        return None
    shown = [sphere for _, sphere in looks]
    signs = [[one.signs[side] for one in shown] for side in (0, 1)]
    steps = [one.step for one in shown if one.step is not None]
    worst = max(looks, key=lambda one: _opened(one[1].step))
    turn, residual = laid.arrangement.turn, _middle([one.yaw for one in shown])
    return SphereFindings(
        signs=(middle_of(signs[0]), middle_of(signs[1])),
        kinds=(
            _kind(signs[0], readings[0], laid.packed[0], found.master),
            _kind(signs[1], readings[1], laid.packed[1], found.export),
        ),
        turn=turn if residual is None else Turn(turn.yaw + residual, turn.pitch, turn.roll),
        turn_likeness=laid.likeness,
        seam=_middle([step.seam for step in steps]),
        ordinary=_middle([step.ordinary for step in steps]),
        moments=tuple(_moment(look, one) for look, one in looks),
        horizons=(_level(shown, 0), _level(shown, 1)),
        rows=worst[1].step.rows if worst[1].step else (),
        worst_frame=worst[0].export_frame,
        tear=_middle([one.tear for one in shown]),
        views=worst[1].views,
    )


def _opened(step: SeamStep | None) -> float:
    return step.seam / step.ordinary if step else 0.0


def _kind(
    signs: Sequence[SphereSigns], reading: Reading, packed: Packed, file: FileFindings | None
) -> str | None:
    if reading.projection == HALF or file is None:
        return kind_of(middle_of(signs), HALF_SHAPE)  # meant to be one, however it is stretched
    way, (width, height) = _way(packed, reading), file.tally.raster
    across, down = parts_of(way)
    cell = width / across / (height / down) * reading.aspect
    half = nearest(shown_shapes(cell, packed=way != MONO), HALF_SHAPE)
    return kind_of(middle_of(signs), half)


def _moment(look: Look, shown: SphereLook) -> SphereMoment:
    return SphereMoment(
        master_frame=look.master_frame,
        export_frame=look.export_frame,
        seam=round(shown.step.seam, 3) if shown.step else None,
        ordinary=round(shown.step.ordinary, 3) if shown.step else None,
        yaw=shown.yaw,
    )


def _level(looks: Sequence[SphereLook], side: int) -> Horizon | None:
    found = [lean for look in looks if (lean := look.horizons[side]) is not None]
    if len(found) * 2 <= len(looks):
        return None
    parts: tuple[Callable[[Horizon], float], ...] = (
        lambda one: one.pitch,
        lambda one: one.roll,
        lambda one: one.clear,
    )
    pitch, roll, clear = (float(np.median([part(one) for one in found])) for part in parts)
    return Horizon(pitch=round(pitch, 2), roll=round(roll, 2), clear=round(clear, 2))


def _looks(found: SpanFindings, export: Reading) -> tuple[Look, ...]:
    if found.export is None:
        return ()
    each = max(round(float(export.rate)), 1)
    return chosen_looks(found.looks, found.export.numbers, found.export.marks, each)


def _middle(values: Sequence[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    return round(float(np.median(known)), 4) if known else None
