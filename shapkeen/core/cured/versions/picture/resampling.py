"""Planes resampled: across, then down, in float; and rounded to codes with a dither.

The loops are written for vector units: sixty-four rows side by side across, whole rows down.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ....measured.decoded.compiled import Array, compiled_real
from .dithering import PATTERN
from .sampling import Real, Weights


@dataclass(frozen=True, slots=True, eq=False)
class Rounding:
    """How signals become codes of a depth: times scale, plus offset, cut to what the depth has."""

    scale: float
    offset: float
    depth: int


@dataclass(frozen=True, slots=True, eq=False)
class Resampler:
    """How one plane's part becomes another plane.

    left, top: where the part begins in the plane, in its own samples.
    """

    left: int
    top: int
    across: Weights
    down: Weights

    @property
    def size(self) -> tuple[int, int]:
        """Return width and height of what comes out."""
        return len(self.across.starts), len(self.down.starts)

    @property
    def is_plain(self) -> bool:
        """Return whether samples come out as they are."""
        return self.across.is_plain and self.down.is_plain

    def apply(self, plane: npt.NDArray[Any]) -> Real:
        """Return the part of a plane (row, column) of any kind of number, resampled."""
        wide, starts = self._widened(plane)
        if self.down.is_plain:
            return wide
        width, height = self.size
        out = np.empty((height, width), np.float32)
        _down(wide, starts, self.down.factors, out)
        return out

    def round_into(self, out: npt.NDArray[Any], plane: npt.NDArray[Any], by: Rounding) -> None:
        """Write the part of a plane, resampled and rounded, to codes of the size that comes out.

        Whole codes stay what they are: dithering moves what lies between two of them alone.
        """
        wide, starts = self._widened(plane)
        top = (1 << by.depth) - 1
        numbers = np.array([by.scale, by.offset, top], np.float32)
        _down_rounded(wide, starts, self.down.factors, numbers, PATTERN, out)

    def _widened(self, plane: npt.NDArray[Any]) -> tuple[Real, npt.NDArray[np.int32]]:
        """Return the rows that are needed, resampled across, and where each window starts there."""
        least = int(self.down.starts.min())
        rows = plane[self.top + least :][: int(self.down.starts.max()) - least + self._taps]
        wide = np.empty((len(rows), self.size[0]), np.float32)
        if self.across.is_plain:
            first = self.left + int(self.across.starts[0])
            wide[:] = rows[:, first : first + self.size[0]]
        else:
            _across(rows, self.left, self.across.starts, self.across.factors, wide)
        return wide, self.down.starts - least

    @property
    def _taps(self) -> int:
        return int(self.down.factors.shape[1])


@compiled_real
def _across(plane: Array, first: int, starts: Array, factors: Array, out: Array) -> None:
    """Make each row's samples. first: the column of the plane that windows count from."""
    side = 64
    low = first + starts.min()
    tile = np.zeros((first + starts.max() + factors.shape[1] - low, side), np.float32)
    made = np.zeros((out.shape[1], side), np.float32)
    for top in range(0, out.shape[0], side):
        count = min(side, out.shape[0] - top)
        for row in range(count):
            line = plane[top + row]
            for x in range(tile.shape[0]):
                tile[x, row] = line[low + x]
        for x in range(out.shape[1]):
            at, sums = first + starts[x] - low, made[x]
            sums[:] = 0
            for tap in range(factors.shape[1]):
                factor, column = factors[x, tap], tile[at + tap]
                for row in range(side):
                    sums[row] += factor * column[row]
        for row in range(count):
            line = out[top + row]
            for x in range(out.shape[1]):
                line[x] = made[x, row]


@compiled_real
def _down(plane: Array, starts: Array, factors: Array, out: Array) -> None:
    """Make each row of those in its window."""
    for row in range(out.shape[0]):
        made = out[row]
        made[:] = 0
        for tap in range(factors.shape[1]):
            factor, line = factors[row, tap], plane[starts[row] + tap]
            for x in range(made.shape[0]):
                made[x] += factor * line[x]


@compiled_real
def _down_rounded(
    plane: Array,
    starts: Array,
    factors: Array,
    numbers: Array,
    pattern: Array,
    out: Array,
) -> None:
    """Make each row of those in its window, and round it to codes.

    numbers: scale, offset, and the largest code.
    """
    width, scale, offset, top = out.shape[1], numbers[0], numbers[1], numbers[2]
    sums = np.zeros(width, np.float32)
    zeros = np.zeros((pattern.shape[0], width), np.float32)
    for row in range(pattern.shape[0]):
        for x in range(width):
            zeros[row, x] = pattern[row, x % pattern.shape[1]] + np.float32(0.5) + offset
    for row in range(out.shape[0]):
        zero, made = zeros[row % pattern.shape[0]], out[row]
        for x in range(width):
            sums[x] = zero[x]
        for tap in range(factors.shape[1]):
            factor, line = factors[row, tap] * scale, plane[starts[row] + tap]
            for x in range(width):
                sums[x] += factor * line[x]
        for x in range(width):
            made[x] = np.int32(min(max(sums[x], np.float32(0)), top))
