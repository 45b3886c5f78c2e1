"""Areas whose light sits elsewhere than in the expected picture, while the rest is as it should be.

Graphics that were put into an HDR picture without being converted look like this: their codes
are right for SDR, and far too bright or too dark in PQ or HLG. Tone as a whole cannot show it,
for it is told by the middle of all places.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.coding import Coding, light_from_signal, signal_from_codes
from ..decoded.grid import Real
from ..model import MOVED_CODES, Misplaced

CELL = 16
"""Samples of the common grid (at most 1280 wide) a side of a cell."""
WHOLLY = 0.8
"""Cells at an area's edge are moved in part; those that are moved by this share of the most tell
the codes."""
LEAST_CELLS = 6
LEAST_SHARE = 0.3
"""A graphic stands for a while; a flash or a cut that slipped past pairing does not."""
REST_CODES = 4.0
"""Healthy coding moves the cells of a picture by a code or two."""
MOST_AREAS = 4
MOST_COVERED = 0.4
"""More is no insert: then the picture itself changed."""


@dataclass(frozen=True, slots=True)
class CellMeans:
    """Mean luma of the cells of one pair, 10-bit codes (row, column), and the export's frame."""

    frame: int
    expected: Real
    delivered: Real


def cell_means(frame: int, expected: Real, delivered: Real) -> CellMeans:
    """Return the cells of one pair of luma planes of one size."""
    height, width = (side // CELL for side in expected.shape)
    sides = [
        plane[: height * CELL, : width * CELL]
        .reshape(height, CELL, width, CELL)
        .mean(axis=(1, 3))
        .astype(np.float32)
        for plane in (expected, delivered)
    ]
    return CellMeans(frame, sides[0], sides[1])


def find_misplaced(cells: Sequence[CellMeans], coding: Coding) -> tuple[Misplaced, ...]:
    """Return areas that sit elsewhere in at least LEAST_SHARE of the pairs, the largest first."""
    alike = [one for one in cells if one.expected.shape == cells[0].expected.shape]
    by = np.stack([np.abs(one.delivered - one.expected) for one in alike])
    moved = by > MOVED_CODES
    lasting = moved.mean(axis=0) >= LEAST_SHARE
    if len(alike) < 2 or lasting.mean() > MOST_COVERED:
        return ()
    if float(np.median(by[:, ~lasting])) > REST_CODES:
        return ()  # the rest did not stay either, so this is no insert
    count, places, facts, _ = cv2.connectedComponentsWithStats(lasting.astype(np.uint8))
    order = sorted(range(1, count), key=lambda i: -int(facts[i][cv2.CC_STAT_AREA]))
    return tuple(
        _area(places == number, facts[number], alike, moved, coding)
        for number in order[:MOST_AREAS]
        if facts[number][cv2.CC_STAT_AREA] >= LEAST_CELLS
    )


def covered(areas: Sequence[Misplaced], shape: tuple[int, int]) -> npt.NDArray[np.bool_]:
    """Return which cells of a grid (rows, columns) lie in the areas or beside them."""
    rows, columns = shape
    mask = np.zeros(shape, bool)
    for area in areas:
        top, left = round(area.top * rows), round(area.left * columns)
        bottom, right = (
            round((area.top + area.height) * rows),
            round((area.left + area.width) * columns),
        )
        mask[max(top - 1, 0) : bottom + 1, max(left - 1, 0) : right + 1] = True
    return mask


def _area(
    inside: npt.NDArray[np.bool_],
    facts: npt.NDArray[np.int32],
    cells: Sequence[CellMeans],
    moved: npt.NDArray[np.bool_],
    coding: Coding,
) -> Misplaced:
    number = int(np.argmax((moved & inside).sum(axis=(1, 2))))
    there = moved[number] & inside
    one = cells[number]
    move = np.abs(one.delivered - one.expected) * there
    there &= move >= WHOLLY * np.percentile(move[there], 90)
    rows, columns = inside.shape
    codes = [float(np.median(plane[there])) for plane in (one.expected, one.delivered)]
    light = [_light(code, coding) for code in codes]
    return Misplaced(
        left=float(facts[cv2.CC_STAT_LEFT] / columns),
        top=float(facts[cv2.CC_STAT_TOP] / rows),
        width=float(facts[cv2.CC_STAT_WIDTH] / columns),
        height=float(facts[cv2.CC_STAT_HEIGHT] / rows),
        frame=one.frame,
        expected_code=codes[0],
        delivered_code=codes[1],
        expected_nits=light[0],
        delivered_nits=light[1],
    )


def _light(code: float, coding: Coding) -> float | None:
    """Return the light of a grey of this luma code; None where the coding is not known."""
    if not coding.is_known:
        return None
    signal = np.clip(signal_from_codes(np.array([[code, 512.0, 512.0]]), coding), 0, 1)
    return float(light_from_signal(signal, coding.transfer)[0, 1])
