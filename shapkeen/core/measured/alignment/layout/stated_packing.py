"""How views share a picture by its pixels and by its flags, in the words of the stereo trait."""

from ....geometry.packing import (
    FRAME_SEQUENTIAL,
    MONO,
    SIDE_BY_SIDE,
    TOP_BOTTOM,
    stereo_of,
    way_of,
)
from ...model import Reading
from .packing import Packed
from .stereo_layout import StereoLayout


def shifts_by_eye(
    layout: StereoLayout, *, left_first: bool
) -> tuple[tuple[float, float, float], ...]:
    """Return how the master's left and right eye were moved and scaled, if they were."""
    return layout.repacking.shifts[:: 1 if left_first else -1]


def packing_in_use(packed: Packed, reading: Reading) -> str:
    """Return how eyes share a file's picture, or are meant to, where nothing tells."""
    if packed.way in (SIDE_BY_SIDE, TOP_BOTTOM, FRAME_SEQUENTIAL):
        return packed.way
    return stated_packing(reading) or MONO


def stated_packing(reading: Reading) -> str | None:
    """Return how a file states that two views share its picture; None for one view, or silence."""
    told = way_of(reading.stereo)
    return told[0] if told and told[0] != MONO else None


def packings_of(
    layout: StereoLayout, master: Reading, export: Reading
) -> tuple[str | None, str | None]:
    """Return how eyes are packed in both files in the words of the trait; None: cannot be told.

    Which of a master's eyes is the left one its own flag says; silent ones are left first by
    custom.
    """
    first = _named(layout.packed[0], master)
    there = layout.packed[1]
    if first is None or layout.packed[0].way not in (SIDE_BY_SIDE, TOP_BOTTOM):
        return first, _named(there, export)
    if there.way in (SIDE_BY_SIDE, TOP_BOTTOM):
        told = way_of(first)
        left = 0 if told is None or told[1] else 1
        return first, stereo_of(there.way, left_first=layout.repacking.eyes[0] == left)
    return first, _named(there, export)


def _named(packed: Packed, reading: Reading) -> str | None:
    if packed.way is None:
        return None
    told = way_of(reading.stereo)
    left_first = told[1] if told and told[0] == packed.way else True
    return stereo_of(packed.way, left_first=left_first)
