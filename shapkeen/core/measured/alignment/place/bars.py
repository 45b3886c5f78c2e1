"""Even bars at the frame's edges, present in all surveyed frames."""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...decoded.frames import Frame, whole_rows
from ...decoded.grid import Rect
from ...decoded.loops import widen_extremes
from ...model import Bars, LightLevels

Codes = npt.NDArray[np.uint16]
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
WHITE_CODES, DARK_CODES = 900.0, 200.0
"""What is brighter is light that was blown out; and, where no master tells what lay there, any
light at all: bars are black (common practice, no source), an even sky is not."""


@dataclass(frozen=True, slots=True)
class Lines:
    """The lowest and highest luma code of every row and every column, over some frames.

    A bar is a run of lines at the edge that never varies: one frame with picture there is
    enough to contradict it, so dark scenes do not count as bars.
    """

    depth: int
    low_rows: Codes
    high_rows: Codes
    low_columns: Codes
    high_columns: Codes

    def widened(self, other: "Lines") -> "Lines":
        """Return the extremes of both; of this one alone where the rasters differ."""
        if (other.depth, other.raster) != (self.depth, self.raster):
            return self
        return Lines(
            self.depth,
            np.minimum(self.low_rows, other.low_rows),
            np.maximum(self.high_rows, other.high_rows),
            np.minimum(self.low_columns, other.low_columns),
            np.maximum(self.high_columns, other.high_columns),
        )

    @property
    def raster(self) -> tuple[int, int]:
        """Return width and height in samples."""
        return len(self.low_columns), len(self.low_rows)


class LineFinder:
    """Widens the extremes of one file's lines, frame by frame."""

    def __init__(self) -> None:
        """Start without frames."""
        self._lines: Lines | None = None

    def add(self, frame: Frame) -> None:
        """Take in one frame; one of another raster or depth than the first is passed over."""
        width, height = frame.raster
        if self._lines is None:
            ends = [(n, value) for n in (height, width) for value in (65535, 0)]
            self._lines = Lines(frame.depth, *(np.full(n, v, np.uint16) for n, v in ends))
        lines = self._lines
        if (lines.depth, lines.raster) != (frame.depth, frame.raster):
            return
        widen_extremes(
            whole_rows(frame.luma),
            width,
            lines.low_rows,
            lines.high_rows,
            lines.low_columns,
            lines.high_columns,
        )

    def result(self) -> Lines | None:
        """Return the extremes; None without frames."""
        return self._lines


def find_bars(lines: Lines | None, *, most: float = WHITE_CODES) -> Bars | None:
    """Return the bars; None where the whole picture is even, so that none can be told.

    most: the brightest that a bar may be, of ten bits.
    """
    if lines is None:
        return None
    scale = 2.0 ** (10 - lines.depth)
    rows = _scaled(lines.low_rows, scale), _scaled(lines.high_rows, scale)
    columns = _scaled(lines.low_columns, scale), _scaled(lines.high_columns, scale)
    top, bottom = _edge_runs(*rows, most)
    left, right = _edge_runs(*columns, most)
    width, height = lines.raster
    if top + bottom >= height or left + right >= width:
        return None
    return Bars(top=top, bottom=bottom, left=left, right=right)


def _scaled(codes: Codes, scale: float) -> npt.NDArray[np.float64]:
    return codes.astype(np.float64) * scale


def _edge_runs(
    low: npt.NDArray[np.float64], high: npt.NDArray[np.float64], most: float
) -> tuple[int, int]:
    """Return how many lines from the start and from the end never leave one level."""
    runs = []
    for lows, highs in ((low, high), (low[::-1], high[::-1])):
        running_low, running_high = np.minimum.accumulate(lows), np.maximum.accumulate(highs)
        spread = running_high - running_low
        uneven = np.flatnonzero(spread > EVEN_CODES)
        run = int(uneven[0]) if len(uneven) else len(low)
        is_light = run > 0 and running_low[run - 1] > most
        drawn = run >= LEAST_SAMPLES and not is_light and _is_drawn(spread, run)
        runs.append(run if drawn else 0)
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
