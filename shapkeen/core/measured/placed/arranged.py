"""A master's frames laid out as its export lies: eyes moved, spheres turned, shots shifted."""

from dataclasses import replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from ...geometry.packing import parts_of
from ...geometry.sphere import Turn, turned_places
from ..decoded.frames import Frame, rolled
from ..decoded.grid import Real
from ..eyes.cells import P, cells_of, joined
from ..model import Arrangement, Reading


def laid_out(frame: Frame, reading: Reading) -> Frame:
    """Return a frame laid out as its reading says; the same where that says nothing."""
    made = frame
    if reading.arrangement is not None and not reading.arrangement.is_plain:
        arrangement = in_steps(reading.arrangement, frame.raster)
        luma, cb, cr = (_arranged(p, arrangement) for p in (frame.luma, frame.cb, frame.cr))
        made = replace(frame, luma=luma, cb=cb, cr=cr)
    return rolled(made, reading.moved(frame.number))


def _grown(plane: P, by: tuple[float, float, float]) -> P:
    """Return an eye made larger or smaller round its middle, and moved; its rim is carried on."""
    height, width = plane.shape
    dx, dy, size = by
    matrix = np.array(
        [
            [size, 0, (1 - size) * (width - 1) / 2 + dx * width],
            [0, size, (1 - size) * (height - 1) / 2 + dy * height],
        ]
    )
    drawn = cv2.warpAffine(
        plane, matrix, (width, height), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    made: Any = drawn
    return made  # type: ignore[no-any-return]  # of the plane's own kind


def in_steps(arrangement: Arrangement, raster: tuple[int, int]) -> Arrangement:
    """Return the arrangement with yaw and shifts in whole chroma samples of a master's raster.

    Registration finds what is left.
    """
    across, down = parts_of(arrangement.ways[0])
    width, height = raster[0] // across, raster[1] // down
    turn = arrangement.turn
    if turn.is_level:
        turn = Turn(yaw=_stepped(turn.yaw / 360, width) * 360)
    shifts = tuple(
        (_stepped(dx, width), _stepped(dy, height), size) for dx, dy, size in arrangement.shifts
    )
    return replace(arrangement, turn=turn, shifts=shifts)


def _stepped(share: float, side: int) -> float:
    return 2 * round(share * side / 2) / side


def arranged_raster(raster: tuple[int, int], arrangement: Arrangement) -> tuple[int, int]:
    """Return the raster of a master's frames once they are laid out anew."""
    width, height = raster
    one, other = (parts_of(way) for way in arrangement.ways)
    return width // one[0] * other[0], height // one[1] * other[1]


def arranged(luma: Real, arrangement: Arrangement) -> Real:
    """Return luma (row, column) laid out anew."""
    return np.asarray(_arranged(luma, arrangement), np.float32)


def _arranged(plane: P, arrangement: Arrangement) -> P:
    eyes = cells_of(plane, arrangement.ways[0])
    turned = [_turned(eye, arrangement.turn) for eye in eyes]
    cells = [turned[at] for at in arrangement.eyes]
    if arrangement.shifts:
        cells = [_moved(eye, by) for eye, by in zip(cells, arrangement.shifts, strict=True)]
    return joined(cells, arrangement.ways[1])


def _moved(plane: P, by: tuple[float, float, float]) -> P:
    """Return an eye moved right and down; what leaves it comes back at the far side."""
    height, width = plane.shape
    if by[2] != 1:
        return _grown(plane, by)
    moved: Any = np.roll(plane, (round(by[1] * height), round(by[0] * width)), axis=(0, 1))
    return moved  # type: ignore[no-any-return]  # of the plane's own kind


def _turned(plane: P, turn: Turn) -> P:
    """Return a sphere's plane turned; what only went round keeps its samples."""
    if turn == Turn():
        return plane
    height, width = plane.shape
    if turn.is_level:
        rolled_round: Any = np.roll(plane, round(turn.yaw / 360 * width), axis=1)
        return rolled_round  # type: ignore[no-any-return]  # as below
    drawn = cv2.remap(
        plane, *_maps((width, height), turn), cv2.INTER_CUBIC, borderMode=cv2.BORDER_WRAP
    )
    # Between samples the curve may overshoot, but no further than the picture goes.
    made: Any = np.minimum(drawn, plane.max())
    return made  # type: ignore[no-any-return]  # of the plane's own kind


@lru_cache(maxsize=4)
def _maps(size: tuple[int, int], turn: Turn) -> tuple[Real, Real]:
    columns, rows = turned_places(turn, size)
    return columns.astype(np.float32), rows.astype(np.float32)
