"""Where a picture's fine structure ends, told from it alone; and samples that repeat.

Structure of pictures thins out gently towards the finest, and coding thins it further. A picture
that was smaller ends at the smaller raster's own Nyquist frequency: there power falls abruptly.
"""

import numpy as np
import numpy.typing as npt

from ..decoded.grid import Real
from ..model import EdgeOfDetail

TILE, BANDS = 128, 64
COARSE = 0.25
"""Of Nyquist: what counts as coarse on the other axis."""
LEAST_POWER = 0.6
"""Spectral density, codes²: below it is rounding."""
SOUGHT = (0.3, 0.9)
"""Of Nyquist: ends that are looked for."""
WIDE = 5
"""Bands on either side of an end."""
RIM = 8
LEAST_STEP = 2.0
"""Mean difference between neighbours, 10-bit codes: a picture with less repeats nothing."""


class EndFinder:
    """Gathers the power of pictures along both axes."""

    def __init__(self) -> None:
        """Start without pictures."""
        self._power = np.zeros((2, BANDS))
        self._tiles = 0
        window = np.outer(np.hanning(TILE), np.hanning(TILE)).astype(np.float32)
        self._window = window / np.sqrt(float((window**2).sum()))

    def add(self, luma: Real) -> None:
        """Take in a picture's luma (row, column), 10-bit codes."""
        height, width = luma.shape
        for top in range(RIM, height - TILE - RIM + 1, TILE):
            for left in range(RIM, width - TILE - RIM + 1, TILE):
                tile = luma[top : top + TILE, left : left + TILE]
                power = np.abs(np.fft.fft2((tile - tile.mean()) * self._window)) ** 2
                self._power[0] += _along(power)
                self._power[1] += _along(power.T)
                self._tiles += 1

    def result(self) -> tuple[EdgeOfDetail | None, EdgeOfDetail | None]:
        """Return where structure ends across and down; None where it thins out gently."""
        if not self._tiles:
            return None, None
        across, down = (_end_of(power / self._tiles) for power in self._power)
        return across, down


def _along(power: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Return power by frequency along a row, of what is coarse down."""
    half = TILE // 2
    coarse = [row for row in range(TILE) if min(row, TILE - row) * 2 / TILE < COARSE]
    kept = power[coarse].mean(axis=0)
    return np.asarray((kept[:half] + np.roll(kept[::-1], 1)[:half]) / 2)


def _end_of(power: npt.NDArray[np.float64]) -> EdgeOfDetail | None:
    """Return the frequency at which power falls most, against the fall on either side."""
    level = 10 * np.log10(np.maximum(power, LEAST_POWER / 100))
    best: EdgeOfDetail | None = None
    low, high = (int(share * BANDS) for share in SOUGHT)
    for at in range(low, high):
        before, after = level[at - WIDE : at], level[at + 2 : at + 2 + WIDE]
        if len(after) < WIDE or power[at - WIDE : at].mean() < LEAST_POWER:
            continue
        slope = (before[0] - before[-1]) / (WIDE - 1) * (WIDE + 2)
        fall = float(before.mean() - after.mean() - max(slope, 0.0))
        if best is None or fall > best.fall:
            best = EdgeOfDetail(share=at / BANDS, fall=round(fall, 2))
    return best


def repeated_samples(luma: Real) -> tuple[float, int]:
    """Return by how much less samples differ within groups of a few than between them, and how many
    make a group: 0 alike, 1 equal. The lesser of both axes."""
    return max((_repeated(luma, ratio), ratio) for ratio in (2, 3, 4))


def _repeated(luma: Real, ratio: int) -> float:
    found = []
    for plane in (luma, luma.T):
        steps = np.abs(np.diff(plane, axis=1)).mean(axis=0)
        steps = steps[: len(steps) // ratio * ratio].reshape(-1, ratio).mean(axis=0)
        between = int(np.argmax(steps))
        if steps[between] < LEAST_STEP:
            return 0.0
        within = np.delete(steps, between)
        found.append(1 - float(within.max()) / float(steps[between]))
    return min(found)
