"""Fine structure: likeness by SSIM, detail that came through, and levels that did."""

import cv2
import numpy as np
import numpy.typing as npt

from .frames import Plane
from .grid import Real
from .model import DepthUse

PEAK = 1023.0
TILE = 256
LOW_BAND, HIGH_BAND = 0.5, 0.75
"""Of Nyquist. Above ¾ even healthy lossy exports hold less than half of the master's energy."""
LEAST_POWER = 2.0
"""Spectral density in codes² below which the master has no such detail: rounding to 8 bits
alone leaves 4² / 12 = 1.3."""
DEPTH_PHASES = 8
EVEN_BLOCK_CODES = 2
"""Within a block of so few codes an 8-bit step (4 codes) is met at most once."""
LEAST_PHASE_BLOCKS = 40
STAIRCASE_DEVIATION = 4 / 12**0.5
"""Deviation of a full sawtooth of 4 codes from its middle."""


def ssim(expected: Real, delivered: Real) -> float:
    """Return the mean structural similarity of two planes in 10-bit codes, up to 1.

    Source: Wang et al. 2004; Gaussian window of sigma 1.5 (11 × 11), population variance.
    """
    c1, c2 = (0.01 * PEAK) ** 2, (0.03 * PEAK) ** 2
    # Single precision is off by 1e-6 at most here, and twice as fast; a common offset, taken
    # out of the squares, would cost more than it saves.
    x, y = expected.astype(np.float32), delivered.astype(np.float32)

    def smooth(plane: Real) -> Real:
        return np.asarray(cv2.GaussianBlur(plane, (11, 11), 1.5, borderType=cv2.BORDER_REFLECT))

    mean_x, mean_y = smooth(x), smooth(y)
    var_x, var_y = smooth(x * x) - mean_x**2, smooth(y * y) - mean_y**2
    shared = smooth(x * y) - mean_x * mean_y
    above = (2 * mean_x * mean_y + c1) * (2 * shared + c2)
    below = (mean_x**2 + mean_y**2 + c1) * (var_x + var_y + c2)
    return float(np.mean((above / below)[5:-5, 5:-5]))


class DetailMeter:
    """Cross-spectrum of export with master over tiles at full size, at the same places."""

    def __init__(self) -> None:
        """Start without tiles."""
        self._shared = self._own = 0.0
        self._tiles = 0
        window = np.hanning(TILE)
        self._window = np.outer(window, window)
        frequency = np.abs(np.fft.fftfreq(TILE)) * 2  # of Nyquist
        radius = np.maximum(frequency[:, None], frequency[None, :])
        self._band = (radius >= LOW_BAND) & (radius < HIGH_BAND)

    def add(self, master: Plane, export: Plane, *, scales: tuple[float, float]) -> None:
        """Take in the tiles of one pair of equal rasters; scales bring codes to 10 bits."""
        height, width = master.shape
        for top in range(0, height - TILE + 1, TILE):
            for left in range(0, width - TILE + 1, TILE):
                place = np.s_[top : top + TILE, left : left + TILE]
                m = master[place].astype(np.float64) * scales[0]
                e = export[place].astype(np.float64) * scales[1]
                spectrum_m = np.fft.fft2((m - m.mean()) * self._window)[self._band]
                spectrum_e = np.fft.fft2((e - e.mean()) * self._window)[self._band]
                self._shared += float((spectrum_e * spectrum_m.conj()).real.sum())
                self._own += float((np.abs(spectrum_m) ** 2).sum())
                self._tiles += 1

    def result(self) -> float | None:
        """Return the part of the master's detail in the band that came through, 0 to about 1.

        None where there are no tiles, or the master has no detail there.
        """
        if not self._tiles:
            return None
        bins = self._tiles * float(self._band.sum())
        power = self._own / bins / float((self._window**2).sum())
        return self._shared / self._own if power > LEAST_POWER else None


class DepthMeter:
    """Looks for an 8-bit staircase in a deeper export, by the master's finer codes.

    On the smoothest blocks a picture cut to 8 bits differs from its master by a sawtooth of
    the master's two lowest bits; any other damage knows nothing of those bits. Block means
    outlive lossy coding, which wipes the staircase from the histogram.
    """

    def __init__(self) -> None:
        """Start without blocks."""
        self._count = np.zeros(DEPTH_PHASES)
        self._sum = np.zeros(DEPTH_PHASES)
        self._square = 0.0

    def add(self, master: Plane, export: Plane) -> None:
        """Take in one pair of equal rasters, both of 10 bits."""
        blocks_m, blocks_e = _blocks(master), _blocks(export)
        even = np.ptp(blocks_m, axis=1) <= EVEN_BLOCK_CODES
        mean_m = blocks_m[even].mean(axis=1)
        difference = blocks_e[even].mean(axis=1) - mean_m
        phases = (mean_m % 4 * (DEPTH_PHASES / 4)).astype(int) % DEPTH_PHASES
        self._count += np.bincount(phases, minlength=DEPTH_PHASES)
        self._sum += np.bincount(phases, weights=difference, minlength=DEPTH_PHASES)
        self._square += float((difference * difference).sum())

    def result(self) -> DepthUse | None:
        """Return the findings; None where too few blocks lie on fine gradients."""
        if self._count.min() < LEAST_PHASE_BLOCKS:
            return None
        total = self._count.sum()
        means = self._sum / self._count
        variance = self._square / total - (self._sum.sum() / total) ** 2
        return DepthUse(
            residual=float(np.sqrt(max(variance, 0))),
            step_share=float(means.std() / STAIRCASE_DEVIATION),
        )


def _blocks(plane: Plane) -> npt.NDArray[np.float32]:
    """Return a plane's 8 × 8 blocks as rows of 64 codes."""
    height, width = (side // 8 * 8 for side in plane.shape)
    cut = plane[:height, :width].reshape(height // 8, 8, width // 8, 8)
    return cut.swapaxes(1, 2).reshape(-1, 64).astype(np.float32)
