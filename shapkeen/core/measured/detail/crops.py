"""Parts of sampled pairs at full size, for judging the finest structure.

A part is chosen where the export has most structure; its corner lies on a multiple of STEP samples
of the raster, so that a picture that was made smaller by a simple ratio and enlarged again can be
made again sample by sample.
"""

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from ..alignment.picture_map import PictureMap
from ..alignment.place.turning import turned
from ..decoded.frames import Frame, Plane
from ..decoded.grid import Rect, code_scale

SIDE, LEAST_SIDE = 480, 120
STEP = 60
"""A multiple of 2, 3, 4, 5, 6: the steps of the ratios in use."""
MARGIN = 12
"""Samples of the master kept round the part, for kernels to reach into."""
WHOLE = 0.06
"""Registration within this of whole samples counts as on them: kernels would soften it."""
Samples = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Crop:
    """A part of both pictures, luma in 10-bit codes (row, column).

    master: with a margin round it. left, top: where the export's part begins in it, in samples of
    the master. scale: export samples for one of the master, across and down.
    """

    master: Samples
    export: Samples
    left: float
    top: float
    scale: tuple[float, float]

    def expected(self, way: int) -> Samples:
        """Return the master's part on the export's grid; way: OpenCV's kernel."""
        across, down = self.scale
        step = (1 / across, 1 / down)
        if max(step) > 1.2:  # made smaller: kernels alone would alias
            height, width = self.master.shape
            size = (max(round(width / step[0]), 1), max(round(height / step[1]), 1))
            smaller = cv2.resize(self.master, size, interpolation=cv2.INTER_AREA)
            return self._warped(np.asarray(smaller, np.float32), way)
        return self._warped(self.master, way)

    def _warped(self, plane: Samples, way: int) -> Samples:
        height, width = self.export.shape
        kept = [a / b for a, b in zip(plane.shape[::-1], self.master.shape[::-1], strict=True)]
        steps = [k / s for k, s in zip(kept, self.scale, strict=True)]
        starts = [self.left * kept[0], self.top * kept[1]]
        places = [first + step / 2 - 0.5 for first, step in zip(starts, steps, strict=True)]
        if all(abs(s - 1) < 1e-9 for s in steps) and all(abs(p - round(p)) < WHOLE for p in places):
            left, top = round(places[0]), round(places[1])
            return plane[top : top + height, left : left + width]
        matrix = np.array([[steps[0], 0, places[0]], [0, steps[1], places[1]]])
        flags = way | cv2.WARP_INVERSE_MAP
        border = cv2.BORDER_REPLICATE
        made = cv2.warpAffine(plane, matrix, (width, height), flags=flags, borderMode=border)
        return np.asarray(made, np.float32)


@dataclass(frozen=True, slots=True)
class _Along:
    """One axis of a crop: its first sample and length in the export, and the span of the master.

    start: where it begins in the master, in samples; scale: export samples for one of those.
    """

    first: int
    length: int
    start: float
    scale: float
    low: int
    high: int


def _along(
    first: int, length: int, *, raster: int, whole: int, place: tuple[float, float]
) -> _Along:
    """raster, whole: sides of export and master. place: of the whole master in the export."""
    scale = place[1] * raster / whole
    start = (first / raster - place[0]) / place[1] * whole
    low = max(int(start) - MARGIN, 0)
    high = min(int(start + length / scale) + MARGIN + 1, whole)
    return _Along(first, length, start, scale, low, high)


def cut_crop(
    master: Frame, export: Frame, picture_map: PictureMap, *, full_range: bool
) -> Crop | None:
    """Return the part of a pair with most structure; None where the pictures share too little.

    full_range: of the master's codes, by which both are brought to ten bits.
    """
    place = _place(export.luma, picture_map.shared)
    if place is None:
        return None
    ours = _codes(master.luma, master.depth, full_range=full_range)
    if picture_map.turn or picture_map.mirrored:
        ours = turned(ours, picture_map.turn, mirrored=picture_map.mirrored)
    rect, (width, height) = picture_map.rect, export.raster
    x = _along(place[0], place[2], raster=width, whole=ours.shape[1], place=(rect.left, rect.width))
    y = _along(
        place[1], place[3], raster=height, whole=ours.shape[0], place=(rect.top, rect.height)
    )
    part = export.luma[y.first : y.first + y.length, x.first : x.first + x.length]
    return Crop(
        ours[y.low : y.high, x.low : x.high].copy(),
        _codes(part, export.depth, full_range=full_range),
        x.start - x.low,
        y.start - y.low,
        (x.scale, y.scale),
    )


def _codes(plane: Plane, depth: int, *, full_range: bool) -> Samples:
    return plane.astype(np.float32) * np.float32(code_scale(depth, full_range=full_range))


def _place(luma: Plane, shared: Rect) -> tuple[int, int, int, int] | None:
    """Return left, top, width and height of the most structured part on STEP's grid."""
    height, width = luma.shape
    low = [
        -(-int(first * side) // STEP) * STEP
        for first, side in ((shared.left, width), (shared.top, height))
    ]
    high = [int((shared.left + shared.width) * width), int((shared.top + shared.height) * height)]
    sizes = [min(SIDE, (b - a) // 2 * 2) for a, b in zip(low, high, strict=True)]
    if min(sizes) < LEAST_SIDE:
        return None
    thin = luma[::2, ::2].astype(np.float32)
    rough = np.abs(np.diff(thin, axis=1))[:-1] + np.abs(np.diff(thin, axis=0))[:, :-1]
    sums = cv2.integral(rough)
    rows, columns = rough.shape

    def structure(place: tuple[int, int]) -> float:
        left, top = place[0] // 2, place[1] // 2
        right, bottom = min(left + sizes[0] // 2, columns), min(top + sizes[1] // 2, rows)
        return float(sums[bottom, right] - sums[top, right] - sums[bottom, left] + sums[top, left])

    places = [
        (left, top)
        for top in range(low[1], high[1] - sizes[1] + 1, STEP)
        for left in range(low[0], high[0] - sizes[0] + 1, STEP)
    ]
    return (*max(places, key=structure), sizes[0], sizes[1])
