"""A master's frames laid out as its export lies: eyes moved, spheres turned, shots shifted."""

from dataclasses import replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from ....colour.quantisation import chroma_zero_span, luma_offset_span
from ....geometry.packing import parts_of
from ....geometry.sphere import Turn, turned_places
from ...decoded.frames import Frame, rolled
from ...decoded.grid import Real
from ...model import Reading, Repacking
from .cells import P, cells_of, joined

GOES_ROUND = "equirectangular"
"""The projection whose left and right edge meet."""


def repack_frame(frame: Frame, reading: Reading) -> Frame:
    """Return a frame laid out as its reading says; the same where that says nothing."""
    made = frame
    if reading.repacking is not None and not reading.repacking.is_plain:
        black = _black(frame.depth, full_range=reading.full_range)
        wraps = reading.projection == GOES_ROUND
        luma, cb, cr = (
            _repack(plane, reading.repacking, None if wraps else code)
            for plane, code in zip((frame.luma, frame.cb, frame.cr), black, strict=True)
        )
        made = replace(frame, luma=luma, cb=cb, cr=cr)
    return rolled(made, reading.moved(frame.number))


def _black(depth: int, *, full_range: bool) -> tuple[int, int, int]:
    """Return black's codes: what editors leave where an eye was moved away from."""
    zero, _ = chroma_zero_span(depth=depth, full_range=full_range)
    offset, _ = luma_offset_span(depth=depth, full_range=full_range)
    return offset, zero, zero


def _grown(plane: P, by: tuple[float, float, float]) -> P:
    """Return an eye made larger or smaller round its middle, and moved; its rim is carried on."""
    made: Any = _warped(plane, by, cv2.INTER_LINEAR)
    return made  # type: ignore[no-any-return]  # of the plane's own kind


def moved_back(plane: Real, by: tuple[float, float, float]) -> Real:
    """Return an eye's plane as it was before it was moved and scaled; its rim is carried on."""
    return np.asarray(_warped(plane, by, cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP), np.float32)


def _warped(plane: npt.NDArray[Any], by: tuple[float, float, float], flags: int) -> Any:
    height, width = plane.shape
    dx, dy, size = by
    matrix = np.array(
        [
            [size, 0, (1 - size) * (width - 1) / 2 + dx * width],
            [0, size, (1 - size) * (height - 1) / 2 + dy * height],
        ]
    )
    return cv2.warpAffine(
        plane, matrix, (width, height), flags=flags, borderMode=cv2.BORDER_REPLICATE
    )


def in_steps(repacking: Repacking, raster: tuple[int, int]) -> Repacking:
    """Return the arrangement with yaw and shifts in whole chroma samples of a master's raster.

    Registration finds what is left, where both eyes have it alike: so it is the difference between
    them that is stepped.
    """
    across, down = parts_of(repacking.ways[0])
    width, height = raster[0] // across, raster[1] // down
    turn = repacking.turn
    if turn.is_level:
        turn = Turn(yaw=_stepped(turn.yaw / 360, width) * 360)
    left, top = repacking.shifts[0][:2] if repacking.shifts else (0.0, 0.0)
    shifts = tuple(
        (
            _stepped(left, width) + _stepped(dx - left, width),
            _stepped(top, height) + _stepped(dy - top, height),
            size,
        )
        for dx, dy, size in repacking.shifts
    )
    return replace(repacking, turn=turn, shifts=shifts)


def _stepped(share: float, side: int) -> float:
    return 2 * round(share * side / 2) / side


def repacked_raster(raster: tuple[int, int], repacking: Repacking) -> tuple[int, int]:
    """Return the raster of a master's frames once they are laid out anew."""
    width, height = raster
    one, other = (parts_of(way) for way in repacking.ways)
    return width // one[0] * other[0], height // one[1] * other[1]


def repack(luma: Real, repacking: Repacking) -> Real:
    """Return luma (row, column) laid out anew."""
    return np.asarray(_repack(luma, repacking), np.float32)


def _repack(plane: P, repacking: Repacking, bare: int | None = None) -> P:
    eyes = cells_of(plane, repacking.ways[0])
    turned = [_turned(eye, repacking.turn) for eye in eyes]
    cells = [turned[at] for at in repacking.eyes]
    if repacking.shifts:
        cells = [_moved(eye, by, bare) for eye, by in zip(cells, repacking.shifts, strict=True)]
    return joined(cells, repacking.ways[1])


def _moved(plane: P, by: tuple[float, float, float], bare: int | None) -> P:
    """Return an eye moved right and down; what it leaves has the code `bare`.

    None: what leaves it comes back at the far side, as a sphere's picture does.
    """
    height, width = plane.shape
    if by[2] != 1:
        return _grown(plane, by)
    down, across = round(by[1] * height), round(by[0] * width)
    moved: Any = np.roll(plane, (down, across), axis=(0, 1))
    if bare is not None:
        moved[_left_by(down)], moved[:, _left_by(across)] = bare, bare
    return moved  # type: ignore[no-any-return]  # of the plane's own kind


def _left_by(move: int) -> slice:
    """Return which lines a move by so many leaves."""
    return slice(0, move) if move >= 0 else slice(move, None)


def _turned(plane: P, turn: Turn) -> P:
    """Return a sphere's plane turned; what only went round keeps its samples."""
    if turn == Turn():
        return plane
    height, width = plane.shape
    if turn.is_level:
        rolled: Any = np.roll(plane, round(turn.yaw / 360 * width), axis=1)
        return rolled  # type: ignore[no-any-return]  # as below
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
