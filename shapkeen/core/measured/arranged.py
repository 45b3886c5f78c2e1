"""A master's frames laid out as its export lies: eyes moved, spheres turned, single shots
shifted."""

from dataclasses import replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from ..geometry.packing import BESIDE, STACKED
from ..geometry.sphere import Turn, turned_places
from .eyes.cells import P, cells_of, joined
from .frames import Frame, rolled
from .grid import Real
from .model import Arrangement, Reading


def laid_out(frame: Frame, reading: Reading) -> Frame:
    """Return a frame as its reading says that it must be laid out; the same where it says
    nothing."""
    made = frame
    if reading.arrangement is not None and not reading.arrangement.is_plain:
        arrangement = _in_steps(reading.arrangement, frame.raster[0])
        luma, cb, cr = (_arranged(p, arrangement) for p in (frame.luma, frame.cb, frame.cr))
        made = replace(frame, luma=luma, cb=cb, cr=cr)
    return rolled(made, reading.moved(frame.number))


def _in_steps(arrangement: Arrangement, width: int) -> Arrangement:
    """Return the arrangement with yaw in whole chroma samples; registration finds what is left."""
    turn = arrangement.turn
    if not turn.is_level:
        return arrangement
    eye = width // 2 if arrangement.ways[0] == BESIDE else width
    steps = 2 * round(turn.yaw / 360 * eye / 2)
    return replace(arrangement, turn=Turn(yaw=steps / eye * 360))


def arranged_raster(raster: tuple[int, int], arrangement: Arrangement) -> tuple[int, int]:
    """Return the raster of a master's frames once they are laid out anew."""
    width, height = raster
    one, other = (_parts(way) for way in arrangement.ways)
    return width // one[0] * other[0], height // one[1] * other[1]


def _parts(way: str) -> tuple[int, int]:
    return 1 + (way == BESIDE), 1 + (way == STACKED)


def arranged(luma: Real, arrangement: Arrangement) -> Real:
    """Return luma (row, column) laid out anew."""
    return np.asarray(_arranged(luma, arrangement), np.float32)


def _arranged(plane: P, arrangement: Arrangement) -> P:
    eyes = cells_of(plane, arrangement.ways[0])
    turned = [_turned(eye, arrangement.turn) for eye in eyes]
    return joined([turned[at] for at in arrangement.eyes], arrangement.ways[1])


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
