"""Even bars at the frame's edges, present in all surveyed frames."""

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from .frames import Frame
from .grid import Rect
from .model import Bars, LightLevels

EVEN_CODES = 24.0
"""10-bit codes that a bar may vary: coding leaves about ±10 round a bar's edge at CRF 24."""
OUTER_CODES = 8.0
"""In its outer half, away from where coding rings, a drawn bar is all but one code value."""
STEP_CODES = 40.0
STEP_LINES = 4
"""A bar ends in a step: within so many lines the picture leaves the bar's level by so much.
A dark wall that only fades towards the edge does not."""
LEAST_SAMPLES = 2
"""Thinner ones are edge effects of scaling and coding, not bars."""


class BarFinder:
    """Keeps the darkest and brightest sample of every row and column over all frames.

    A bar is a run of rows at the edge that never varies: one frame with picture there is
    enough to contradict it, so dark scenes do not count as bars.
    """

    def __init__(self) -> None:
        """Start without frames."""
        self._rows: list[npt.NDArray[np.float64]] = []
        self._columns: list[npt.NDArray[np.float64]] = []

    def add(self, frame: Frame) -> None:
        """Take in one frame's extremes along both axes."""
        scale = 2.0 ** (10 - frame.depth)
        for axis, kept in ((1, self._rows), (0, self._columns)):
            low = frame.luma.min(axis=axis) * scale
            high = frame.luma.max(axis=axis) * scale
            if kept:
                low, high = np.minimum(kept[0], low), np.maximum(kept[1], high)
            kept[:] = [low, high]

    def result(self) -> Bars | None:
        """Return the bars; None where the whole picture is even, so that none can be told."""
        if not self._rows:
            return None
        top, bottom = _edge_runs(self._rows)
        left, right = _edge_runs(self._columns)
        height, width = len(self._rows[0]), len(self._columns[0])
        if top + bottom >= height or left + right >= width:
            return None
        return Bars(top=top, bottom=bottom, left=left, right=right)


def _edge_runs(extremes: list[npt.NDArray[np.float64]]) -> tuple[int, int]:
    """Return how many lines from the start and from the end never leave one level."""
    low, high = extremes
    runs = []
    for lows, highs in ((low, high), (low[::-1], high[::-1])):
        running_low, running_high = np.minimum.accumulate(lows), np.maximum.accumulate(highs)
        spread = running_high - running_low
        uneven = np.flatnonzero(spread > EVEN_CODES)
        run = int(uneven[0]) if len(uneven) else len(low)
        runs.append(run if run >= LEAST_SAMPLES and _is_drawn(spread, run) else 0)
    return runs[0], runs[1]


def _is_drawn(spread: npt.NDArray[np.float64], run: int) -> bool:
    """Return whether a run of even lines is a drawn bar and not a dark part of the picture."""
    if run == len(spread):
        return True
    ends_in_step = spread[run : run + STEP_LINES].max() > EVEN_CODES + STEP_CODES
    return bool(ends_in_step and spread[run // 2] <= OUTER_CODES)


def light_inside(
    light: LightLevels | None, bars: Bars | None, raster: tuple[int, int]
) -> LightLevels | None:
    """Return light levels of the picture inside black bars: CTA-861.3 leaves them out.

    Bars give no light, so only averages and shares change.
    """
    rect = active_rect(bars, raster)
    gain = 1 / (rect.width * rect.height)
    if light is None or gain == 1:
        return light
    return replace(
        light,
        max_fall=light.max_fall * gain,
        series=tuple((time, top, average * gain) for time, top, average in light.series),
        above_peak=None if light.above_peak is None else light.above_peak * gain,
    )


def active_rect(bars: Bars | None, raster: tuple[int, int]) -> Rect:
    """Return the picture inside the bars as fractions of the raster."""
    if bars is None or bars.is_empty:
        return Rect()
    width, height = raster
    return Rect(
        bars.left / width,
        bars.top / height,
        (width - bars.left - bars.right) / width,
        (height - bars.top - bars.bottom) / height,
    )
