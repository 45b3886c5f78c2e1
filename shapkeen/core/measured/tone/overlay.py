"""What was laid over the picture: burnt-in text, a mark, subtitles; and bars that hide it.

There the delivered picture is another one than the master's, in most of the pairs, while beside it
both are the same (docs/checks.md 4). An area that only sits at another light is misplaced.py's.
"""

import math
from collections.abc import Sequence

import cv2
import numpy as np
import numpy.typing as npt

from ..model import Overlay
from .cover_cells import CELL, CoverCells
from .edge_lines import Flags, Sides
from .shear import SHEARED_SAMPLES

LEAST_SHARE, LEAST_SHARE_UNTIMED = 0.3, 0.9
"""Of the pairs. Where frames may be held against others' than their own, what moves differs as well
from where frames were lost on."""
LEAST_CELLS = 12
MOST_COVERED = 0.45
AT_EDGE = 0.005
JOIN = 5
"""Cells between the letters of one line."""
LEAST_BAR = 0.008
BORDER = 2
"""Cells each way."""


def find_overlays(
    cells: Sequence[CoverCells],
    raster: tuple[int, int],
    parts: tuple[int, int] = (1, 1),
    *,
    is_timed: bool = True,
) -> tuple[tuple[Overlay, ...], Flags | None]:
    """Return what lies over the picture in most pairs, the largest first, and the covered cells.

    raster: the export's. parts: eyes beside each other, and over each other: filters mix them
    where they border. is_timed: whether each frame is known to be its pair's. Bars are none.
    """
    alike = [one for one in cells if one.covered.shape == cells[0].covered.shape]
    if len(alike) < 2 or find_shear(alike, raster[0], parts):
        return (), None
    flags = np.stack([one.covered for one in alike])
    lasting = flags.mean(axis=0) >= (LEAST_SHARE if is_timed else LEAST_SHARE_UNTIMED)
    shape = (lasting.shape[0], lasting.shape[1])
    lasting &= ~(_inside_bars(shape, painted_bars(alike)) | _at_borders(shape, parts))
    if not lasting.any() or lasting.mean() > MOST_COVERED:
        return (), None
    joined = cv2.morphologyEx(
        lasting.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, JOIN), np.uint8)
    )
    count, places, facts, _ = cv2.connectedComponentsWithStats(joined)
    found = []
    for number in range(1, count):
        inside = (places == number) & lasting
        if inside.sum() < LEAST_CELLS:
            lasting &= places != number
            continue
        at = int(np.argmax((flags & inside).sum(axis=(1, 2))))
        found.append(_overlay(facts[number], lasting.shape, alike[at], raster, int(inside.sum())))
    found.sort(key=lambda one: -one.width * one.height)
    return tuple(found), lasting if found else None


def find_shear(cells: Sequence[CoverCells], width: int, parts: tuple[int, int] = (1, 1)) -> float:
    """Return by how many samples the export's last row lies further right than its first; 0 where
    by next to none. What differs then is the picture itself, and lies not over it.

    width: of the export's raster. parts: as in find_overlays; eyes are told by stereo/.
    """
    middle = float(np.median([one.sheared for one in cells]))
    if parts != (1, 1) or abs(middle) <= SHEARED_SAMPLES:
        return 0.0
    share = middle / (cells[0].covered.shape[1] * CELL)
    return float(share * cells[0].shared.width * width)


def painted_bars(cells: Sequence[CoverCells]) -> Sides:
    """Return how thick bars are that the export alone has, as shares of its raster.

    top, bottom, left, right, of every pair the least: a bar is there in all of them.
    """
    alike = [one for one in cells if one.covered.shape == cells[0].covered.shape]
    if len(alike) < 2:
        return (0.0, 0.0, 0.0, 0.0)
    came = np.min([one.runs[1] for one in alike], axis=0)
    given = np.max([one.runs[0] for one in alike], axis=0)
    top, bottom, left, right = np.where(came - given > LEAST_BAR, came, 0.0).tolist()
    return (top, bottom, left, right)


def bared_sides(cells: Sequence[CoverCells]) -> Sides:
    """Return how far from each edge nothing hides the picture, in the middle of all pairs, as
    shares of the export's raster; 0 where the picture does not reach the edge."""
    if not cells:
        return (0.0, 0.0, 0.0, 0.0)
    top, bottom, left, right = np.median([one.bared for one in cells], axis=0).tolist()
    shared = cells[0].shared
    return (
        top * shared.height if shared.top <= AT_EDGE else 0.0,
        bottom * shared.height if shared.top + shared.height >= 1 - AT_EDGE else 0.0,
        left * shared.width if shared.left <= AT_EDGE else 0.0,
        right * shared.width if shared.left + shared.width >= 1 - AT_EDGE else 0.0,
    )


def _inside_bars(shape: tuple[int, int], bars: Sides) -> Flags:
    rows, columns = shape
    top, bottom, left, right = bars
    made = np.zeros(shape, bool)
    made[: math.ceil(top * rows + 0.5) if top else 0] = True
    made[rows - (math.ceil(bottom * rows + 0.5) if bottom else 0) :] = True
    made[:, : math.ceil(left * columns + 0.5) if left else 0] = True
    made[:, columns - (math.ceil(right * columns + 0.5) if right else 0) :] = True
    return made


def _at_borders(shape: tuple[int, int], parts: tuple[int, int]) -> Flags:
    """Return the cells where two eyes border on each other."""
    made = np.zeros(shape, bool)
    rows, columns = shape
    if parts[0] > 1:
        made[:, columns // 2 - BORDER : (columns + 1) // 2 + BORDER] = True
    if parts[1] > 1:
        made[rows // 2 - BORDER : (rows + 1) // 2 + BORDER] = True
    return made


def _overlay(
    facts: npt.NDArray[np.int32],
    shape: tuple[int, int],
    cells: CoverCells,
    raster: tuple[int, int],
    count: int,
) -> Overlay:
    rows, columns = shape
    wide, high = cells.shared.width * raster[0], cells.shared.height * raster[1]
    left = cells.shared.left * raster[0] + facts[cv2.CC_STAT_LEFT] / columns * wide
    top = cells.shared.top * raster[1] + facts[cv2.CC_STAT_TOP] / rows * high
    return Overlay(
        x=round(left),
        y=round(top),
        width=round(facts[cv2.CC_STAT_WIDTH] / columns * wide),
        height=round(facts[cv2.CC_STAT_HEIGHT] / rows * high),
        frame=cells.frame,
        share=round(count / (rows * columns), 4),
    )
