"""What one moment of both files shows of two eyes."""

from collections.abc import Sequence
from dataclasses import dataclass

from ...geometry.packing import FRAME_SEQUENTIAL
from ..alignment.layout.cells import cells_of
from ..alignment.layout.correspondences import Correspondences, find_correspondences
from ..alignment.layout.repacking import moved_back
from ..alignment.layout.view_matching import fit
from ..alignment.picture_map import PictureMap
from ..decoded.frames import Frame
from ..decoded.grid import Reduced
from ..model import StereoMoment, ViewShift
from .parallax import Matched, agreeing, match_eyes
from .view_difference import colour_between, sharpness_between

Pair = tuple[Reduced, Reduced]
Eyes = Sequence[Reduced]
"""The left and the right one."""


@dataclass(frozen=True, slots=True)
class StereoView:
    """One moment: whether both places of master and export show two eyes, and what those show."""

    correspondences: tuple[Correspondences, Correspondences]
    moment: StereoMoment


@dataclass(frozen=True, slots=True)
class Shown:
    """A moment's pictures of master and export, laid out alike.

    frames: at full size; pair: on the common grid; small, before: made small, of this moment and of
    the one before (None at the beginning).
    """

    frames: tuple[Frame, Frame]
    pair: Pair
    small: Pair
    before: Pair | None


@dataclass(frozen=True, slots=True)
class Sharing:
    """How eyes share both pictures: in which way, and whether the left one's place is the first.

    applied: how the master's left and right eye were moved (shares of their size) and scaled to lie
    as the export's; empty where they were not.
    """

    way: str
    left_first: bool
    applied: tuple[tuple[float, float, float], ...] = ()


def measure_stereo_view(
    shown: Shown, sharing: Sharing, picture_map: PictureMap | None, *, rate: float
) -> StereoView | None:
    """Return what both eyes show; None where there are none, or the second one follows.

    rate: of the export, frames a second.
    """
    layout = _eyes(shown, sharing)
    if layout is None:
        return None
    correspondences = [find_correspondences(left.luma, right.luma) for left, right in layout]
    eyes = _as_mastered(layout[0], sharing.applied), layout[1]
    matched = _matched(eyes)
    codings = (picture_map.own, picture_map.goal) if picture_map else (None, None)
    colours = [
        colour_between(each[0], each[1], found, coding) if found and coding else None
        for each, found, coding in zip(eyes, matched, codings, strict=True)
    ]
    sharp = [_sharpness(frame, sharing) for frame in shown.frames]
    uses = [found.use if found else None for found in matched]
    number = shown.frames[1].number
    moment = StereoMoment(
        master_frame=shown.frames[0].number,
        export_frame=number,
        time_s=round(number / rate, 3),
        parallax=(uses[0], uses[1]),
        shifts=_shifts(layout),
        colour=(colours[0], colours[1]),
        sharpness=(sharp[0], sharp[1]),
    )
    return StereoView((correspondences[0], correspondences[1]), moment)


def _as_mastered(eyes: Eyes, applied: Sequence[tuple[float, float, float]]) -> Eyes:
    """Return a master's eyes as far apart as it has them."""
    if len(applied) != 2:
        return eyes
    return [
        Reduced(*(moved_back(plane, by) for plane in (eye.luma, eye.cb, eye.cr)))
        for eye, by in zip(eyes, applied, strict=True)
    ]


def _eyes(shown: Shown, sharing: Sharing) -> tuple[Eyes, Eyes] | None:
    """Return left and right eye of master and export."""
    if sharing.way == FRAME_SEQUENTIAL:
        if shown.before is None or shown.frames[1].number % 2 == 0:
            return None
        eyes = [[before, now] for before, now in zip(shown.before, shown.small, strict=True)]
    else:
        eyes = [_split(reduced, sharing.way) for reduced in shown.pair]
    if any(len(each) != 2 for each in eyes):
        return None
    ordered = eyes if sharing.left_first else [each[::-1] for each in eyes]
    return ordered[0], ordered[1]


def _matched(eyes: tuple[Eyes, Eyes]) -> tuple[Matched | None, Matched | None]:
    """Return the parallax of master and export."""
    master, export = (match_eyes(left.luma, right.luma) for left, right in eyes)
    if master and export:
        export = agreeing(export, master, (eyes[1][0].luma, eyes[1][1].luma))
    return master, export


def _split(reduced: Reduced, way: str) -> list[Reduced]:
    planes = (cells_of(plane, way) for plane in (reduced.luma, reduced.cb, reduced.cr))
    return [Reduced(*cells) for cells in zip(*planes, strict=True)]


def _sharpness(frame: Frame, sharing: Sharing) -> float | None:
    cells = cells_of(frame.luma, sharing.way)
    if len(cells) != 2:
        return None
    left, right = cells if sharing.left_first else cells[::-1]
    return sharpness_between(left, right)


def _shifts(eyes: tuple[Eyes, Eyes]) -> tuple[ViewShift, ViewShift]:
    """Return how each of the export's eyes lies against its own, and its other, of the master."""
    found = []
    for at in (0, 1):
        own = fit(eyes[1][at].luma, eyes[0][at].luma, fine=True)
        other = fit(eyes[1][at].luma, eyes[0][1 - at].luma)
        found.append(
            ViewShift(
                dx=round(own.dx * 100, 4),
                dy=round(own.dy * 100, 4),
                likeness=round(own.likeness, 5),
                other=round(other.likeness, 5),
                size=round(own.size, 5),
            )
        )
    return found[0], found[1]
