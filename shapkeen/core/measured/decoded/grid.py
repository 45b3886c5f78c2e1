"""The common grid: reduced planes of both pictures, and sampling a place of one like the other.

Comparing at most 1280 samples wide keeps memory flat for any raster; what needs every sample
(light, codes, depth, detail) is measured at full size instead.
"""

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from .frames import Frame, Plane, whole_rows
from .loops import mean_blocks

MAX_WIDTH = 1280
Real = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Rect:
    """A place in a picture as fractions of its width and height."""

    left: float = 0.0
    top: float = 0.0
    width: float = 1.0
    height: float = 1.0


@dataclass(frozen=True, slots=True)
class Reduced:
    """One picture's planes (row, column), on the 10-bit scale, at most MAX_WIDTH wide."""

    luma: Real
    cb: Real
    cr: Real


def _reduced(plane: Plane, scale: float, most: int) -> Real:
    height, width = plane.shape
    side = width // most
    if side > 1 and width == side * most and height % side == 0:  # the same means, ten times faster
        out = np.zeros((height // side, most), np.float32)
        mean_blocks(whole_rows(plane), width, side, scale, out)
        return out
    values = plane.astype(np.float32) * np.float32(scale)
    if width > most:
        size = (most, max(round(height * most / width), 1))
        values = np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_AREA))
    return values


def code_scale(depth: int, *, full_range: bool) -> float:
    """Return the factor from codes of a depth to the 10-bit scale."""
    return 1023 / ((1 << depth) - 1) if full_range else 2.0 ** (10 - depth)


def reduce_frame(frame: Frame, *, full_range: bool) -> Reduced:
    """Return a frame's planes in 10-bit codes, area-averaged where wider than the grid.

    Depths are matched like encoders do: full range by the largest code, limited by shifting.
    """
    scale = code_scale(frame.depth, full_range=full_range)
    return Reduced(
        luma=_reduced(frame.luma, scale, MAX_WIDTH),
        cb=_reduced(frame.cb, scale, MAX_WIDTH // 2),
        cr=_reduced(frame.cr, scale, MAX_WIDTH // 2),
    )


def sample(plane: Real, rect: Rect, size: tuple[int, int]) -> Real:
    """Return the part of a plane under `rect`, resampled to `size` (width, height).

    Averages areas when reducing, so that fine structure does not alias.
    """
    height, width = plane.shape
    if rect == Rect() and (width, height) == size:
        return plane
    shrink_x = max(rect.width * width / size[0], 1.0)
    shrink_y = max(rect.height * height / size[1], 1.0)
    if shrink_x > 1.2 or shrink_y > 1.2:
        smaller = (max(round(width / shrink_x), 1), max(round(height / shrink_y), 1))
        plane = np.asarray(cv2.resize(plane, smaller, interpolation=cv2.INTER_AREA))
        height, width = plane.shape
    step_x, step_y = rect.width * width / size[0], rect.height * height / size[1]
    # Sample centres lie at half: goal (i + ½) · step + left = source j + ½.
    matrix = np.array(
        [
            [step_x, 0, rect.left * width + step_x / 2 - 0.5],
            [0, step_y, rect.top * height + step_y / 2 - 0.5],
        ],
        dtype=np.float64,
    )
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    warped = cv2.warpAffine(plane, matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(warped, dtype=np.float32)


def shared_with(place: Rect) -> Rect:
    """Return the part of a picture that shows another, which lies at `place` in it."""
    left, top = max(place.left, 0.0), max(place.top, 0.0)
    right, bottom = min(place.left + place.width, 1.0), min(place.top + place.height, 1.0)
    return Rect(left, top, right - left, bottom - top)


def part_of(place: Rect) -> Rect:
    """Return the part of that other picture that is shown."""
    shown = shared_with(place)
    return Rect(
        (shown.left - place.left) / place.width,
        (shown.top - place.top) / place.height,
        shown.width / place.width,
        shown.height / place.height,
    )


def common_planes(
    master: Reduced, export: Reduced, place: Rect, *, step: int
) -> tuple[dict[str, Real], dict[str, Real]]:
    """Return both pictures' planes over the part that both show, on one grid.

    place: of the whole master in the export. step: the grid's sides are whole multiples of it, an
    even number; neither picture is enlarged for it.
    """
    in_export, in_master = shared_with(place), part_of(place)
    size = _grid_size(master, export, place=in_export, part=in_master, step=step)
    half = (size[0] // 2, size[1] // 2)
    sizes = {"luma": size, "cb": half, "cr": half}
    return (
        {name: sample(getattr(master, name), in_master, s) for name, s in sizes.items()},
        {name: sample(getattr(export, name), in_export, s) for name, s in sizes.items()},
    )


def _grid_size(
    master: Reduced, export: Reduced, *, place: Rect, part: Rect, step: int
) -> tuple[int, int]:
    sides = []
    for axis, there, here in ((1, place.width, part.width), (0, place.height, part.height)):
        side = min(master.luma.shape[axis] * here, export.luma.shape[axis] * there)
        sides.append(max(int(side + 1e-6) // step * step, step))
    return sides[0], sides[1]
