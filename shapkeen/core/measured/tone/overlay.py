"""What was laid over the picture: burnt-in text, a mark, subtitles.

There the delivered picture is another one than the master's, in most of the pairs, while beside it
both are the same (docs/checks.md 4). An area that only sits at another light is misplaced.py's.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from ..alignment.place.bars import WHITE_CODES
from ..decoded.grid import Real, Rect
from ..model import Overlay

CELL = 8
"""Samples of the common grid (at most 1280 wide) a side of a cell: letters are small."""
LEAST_OFF, TIMES_OFF = 80.0, 5.0
"""10-bit codes by which a covered cell differs, and times what cells differ by in the middle."""
MOVED_CODES, ROUGHER = 40.0, 1.3
"""Coding takes structure away and leaves the mean: what lies over a cell moves it, or adds some."""
FOLLOWS = 0.5
LEAST_SHARE = 0.3
LEAST_CELLS = 12
MOST_COVERED = 0.45
PLACE_CELLS, AT_EDGE = 5, 0.005
JOIN = 5
"""Cells between the letters of one line."""
FLAT_CODES = 6.0
EVEN_CODES, UNEVEN_SHARE, BAR_LINES = 24.0, 0.03, 2
"""As bars are told from single samples (bars.py); what coding sprinkles over them is left out."""
LEAST_BAR = 0.008
BORDER = 2
"""Cells each way."""
BANDS, LEAST_BANDS, SHEARED_SAMPLES, LEAST_RESPONSE = 4, 3, 2.0, 0.2
"""Of rows: so many are laid over the master's, each by itself."""
OFF_SAMPLES, OFF_SHARE = 0.75, 0.06
"""How far a band may lie off the line of a shear, and as a share of it."""
CURVE_BINS, COLOUR_BINS, THIN, STEPS = 32, 24, 4, 4
COLOUR_TELLS = 0.6
Flags = npt.NDArray[np.bool_]
Sides = tuple[float, float, float, float]
"""Top, bottom, left, right."""


@dataclass(frozen=True, slots=True)
class CoverCells:
    """The cells of one pair (rows, columns): which may be covered.

    runs: how far expected and delivered picture are one level from each edge. bared: how far from
    each edge the delivered picture is the expected one, so that nothing hides it. shared: the part
    of the export's raster that they lie in. sheared: samples by which the last row was moved
    further to the right than the first, 0 where that cannot be told or nothing differs.
    """

    frame: int
    covered: Flags
    runs: tuple[Sides, Sides]
    bared: Sides
    shared: Rect
    sheared: float = 0.0


def cover_cells(
    frame: int, planes: Mapping[str, Real], delivered: Real, shared: Rect
) -> CoverCells:
    """Return the cells of one pair.

    planes: the expected luma, and cb and cr of half its size; delivered: luma.
    """
    expected = planes["luma"]
    predicted = _predicted(planes, delivered)
    off = delivered - predicted
    far, moved = np.sqrt(_cells(off * off)), np.abs(_cells(off))
    mean_one, mean_other = _cells(expected), _cells(delivered)
    spread_one = np.maximum(_cells(expected * expected) - mean_one**2, 0)
    spread_other = np.maximum(_cells(delivered * delivered) - mean_other**2, 0)
    covariance = _cells(expected * delivered) - mean_one * mean_other
    # At the border of an area at another light, a step may even go the other way.
    follows = np.abs(covariance) > FOLLOWS * np.sqrt(spread_one * spread_other + FLAT_CODES**2)
    covered = (far > max(LEAST_OFF, TIMES_OFF * float(np.median(far)))) & ~follows
    # Where both are even, only light tells them apart: that is an area at another light.
    covered &= np.maximum(spread_one, spread_other) > FLAT_CODES**2
    covered &= (moved > MOVED_CODES) | (spread_other > ROUGHER**2 * spread_one)
    # What was blown out is one level as well, and hides nothing.
    given = np.maximum(_runs(expected), _runs(predicted)).tolist()
    runs = (*given,), _runs(delivered, most=WHITE_CODES)
    sheared = _shear(predicted, delivered) if covered.any() else 0.0
    # By single samples to the line, or by the middle light of places: a bar has a light of its own,
    # while coding that wore a dark slope or grain away leaves theirs.
    places = cv2.blur(_cells(off), (PLACE_CELLS, PLACE_CELLS))
    by_places = np.array(_from_edges(np.abs(places) > EVEN_CODES / 2)) * _whole_cells(off.shape)
    bared = np.maximum(_from_edges(np.abs(off) > EVEN_CODES), by_places).tolist()
    return CoverCells(frame, covered, runs, (*bared,), shared, sheared)


def _shear(predicted: Real, delivered: Real) -> float:
    """Return by how much further the last row was moved to the right than the first.

    By phase correlation (Kuglin and Hines 1975), as OpenCV has it, of bands of rows; 0 where fewer
    than three hold to their counterparts, or they lie on no line: what moves with its distance, in
    a pan or between two eyes, is not sheared.
    """
    height, width = predicted.shape
    high = height // BANDS
    window = cv2.createHanningWindow((width, high), cv2.CV_32F)
    places, moves = [], []
    for band in range(BANDS):
        rows = slice(band * high, (band + 1) * high)
        one, other = (np.ascontiguousarray(p[rows], np.float32) for p in (predicted, delivered))
        (across, down), response = cv2.phaseCorrelate(one, other, window)
        if response >= LEAST_RESPONSE and abs(down) <= SHEARED_SAMPLES:
            places.append((band + 0.5) / BANDS)
            moves.append(across)
    if len(moves) < LEAST_BANDS:
        return 0.0
    step, begin = np.polyfit(places, moves, 1)
    off = np.abs(np.polyval((step, begin), places) - moves).max()
    return float(step) if off <= max(OFF_SAMPLES, OFF_SHARE * abs(step)) else 0.0


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


def _predicted(planes: Mapping[str, Real], delivered: Real) -> Real:
    """Return what the whole picture's tone makes of the expected luma: of all colours alike, or of
    each by itself, where that tells much more: a fold of HDR may follow the brightest channel."""
    alike = _through_middle_curve(planes["luma"], delivered)
    apart = alike + _moved_by_colour(planes, alike, delivered)
    left = [
        float(np.percentile(np.abs(delivered - one)[::THIN, ::THIN], 90)) for one in (alike, apart)
    ]
    return apart if left[1] < COLOUR_TELLS * left[0] else alike


def _moved_by_colour(planes: Mapping[str, Real], alike: Real, delivered: Real) -> Real:
    """Return by how much each tone of each colour lies off the curve of all, in the middle."""
    height, width = alike.shape
    chroma = [
        cv2.resize(planes[name], (width, height), interpolation=cv2.INTER_NEAREST)
        for name in ("cb", "cr")
    ]
    steps = (CURVE_BINS, COLOUR_BINS, COLOUR_BINS)
    places = [
        np.clip(plane / 1024 * count, 0, count - 1).astype(np.intp)
        for plane, count in zip((planes["luma"], *chroma), steps, strict=True)
    ]
    place = np.ravel_multi_index(tuple(places), steps)
    some = place[::THIN, ::THIN].ravel()
    off = (delivered - alike)[::THIN, ::THIN].ravel()
    order = np.lexsort((off, some))
    found, starts, counts = np.unique(some[order], return_index=True, return_counts=True)
    middles = np.zeros(int(np.prod(steps)), np.float32)
    enough = counts >= CELL
    middles[found[enough]] = off[order][(starts + counts // 2)[enough]]
    return np.asarray(middles[place])


def _through_middle_curve(expected: Real, delivered: Real) -> Real:
    """Return what the whole picture's tone makes of the expected luma."""
    some, others = (plane[::THIN, ::THIN].ravel() for plane in (expected, delivered))
    place = np.clip(some / 1024 * CURVE_BINS, 0, CURVE_BINS - 1).astype(np.intp)
    xs, ys = [], []
    for number in range(CURVE_BINS):
        members = place == number
        if members.sum() >= CELL:
            xs.append(float(np.median(some[members])))
            ys.append(float(np.median(others[members])))
    if not xs:
        return expected
    steps = np.interp(np.arange(1024 * STEPS) / STEPS, xs, ys).astype(np.float32)
    return np.asarray(steps[np.clip(expected * STEPS, 0, len(steps) - 1).astype(np.intp)])


def _cells(plane: Real) -> Real:
    height, width = (side // CELL for side in plane.shape)
    whole = plane[: height * CELL, : width * CELL]
    small = cv2.resize(whole, (width, height), interpolation=cv2.INTER_AREA)  # whole squares
    return np.asarray(small, np.float32)


def _whole_cells(shape: tuple[int, ...]) -> tuple[float, float, float, float]:
    """Return which share of the lines from each edge cells cover."""
    down, across = (side // CELL * CELL / side for side in shape)
    return down, down, across, across


def find_overlays(
    cells: Sequence[CoverCells], raster: tuple[int, int], parts: tuple[int, int] = (1, 1)
) -> tuple[tuple[Overlay, ...], Flags | None]:
    """Return what lies over the picture in most pairs, the largest first, and the covered cells.

    raster: the export's. parts: eyes beside each other, and over each other: filters mix them
    where they border. Bars are none.
    """
    alike = [one for one in cells if one.covered.shape == cells[0].covered.shape]
    if len(alike) < 2 or find_shear(alike, raster[0], parts):
        return (), None
    flags = np.stack([one.covered for one in alike])
    lasting = flags.mean(axis=0) >= LEAST_SHARE
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


def _runs(plane: Real, *, most: float = np.inf) -> Sides:
    """Return how far from each edge a plane is one level, but for what coding put there.

    most: in codes; a level above is no bar, but light that was blown out.
    """
    found = []
    for turned in _turned(plane):
        level = float(np.median(turned[:BAR_LINES]))
        off = np.abs(turned[: len(turned) // 2] - level) > EVEN_CODES
        found.append(_lines_on(off, len(turned)) if level <= most else 0.0)
    return (found[0], found[1], found[2], found[3])


def _turned(plane: npt.NDArray[Any]) -> tuple[npt.NDArray[Any], ...]:
    """Return a plane with each of its edges as its first line: as in Sides."""
    return plane, plane[::-1], plane.T, plane.T[::-1]


def _from_edges(off: Flags) -> Sides:
    """Return how far from each edge hardly a sample of any line is off, up to the middle."""
    found = [_lines_on(turned[: len(turned) // 2], len(turned)) for turned in _turned(off)]
    return (found[0], found[1], found[2], found[3])


def _lines_on(off: Flags, count: int) -> float:
    """Return how many of the lines come before one of which more than a few samples are off, as a
    share of so many."""
    uneven = np.flatnonzero(off.mean(axis=1) > UNEVEN_SHARE)
    return float(uneven[0] if len(uneven) else len(off)) / count


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
