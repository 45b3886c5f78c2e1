"""Fine levels at full size: whether those of ten bits came through.

Each pair gives sums; they are added up in the order of frames, so that how a file was cut changes
nothing.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..decoded.frames import Plane
from ..model import DepthUse

PERIODS = (4, 8, 16)
"""Codes of ten bits on one level of 8, 7 and 6."""
PHASES = 8
EVEN_BLOCK_CODES = 2
"""Within a block of so few codes an 8-bit step (4 codes) is met at most once."""
LEAST_PHASE_BLOCKS = 40


@dataclass(frozen=True, slots=True)
class DepthSums:
    """Differences of a pair over its smoothest blocks, by the master's code mod each period.

    count, sum: (PERIODS, PHASES). square: of all differences.
    """

    count: npt.NDArray[np.float64]
    sum: npt.NDArray[np.float64]
    square: float


def depth_sums(master: Plane, export: Plane) -> DepthSums:
    """Return the sums over blocks of one pair of equal rasters, both of 10 bits.

    On the smoothest blocks a picture cut to 8 bits differs from its master by a sawtooth of
    the master's two lowest bits, one cut to 7 by one of three; any other damage knows nothing of
    those bits. Block means outlive lossy coding, which wipes the staircase from the histogram.
    """
    blocks_m, blocks_e = _blocks(master), _blocks(export)
    even = np.ptp(blocks_m, axis=1) <= EVEN_BLOCK_CODES
    mean_m = blocks_m[even].mean(axis=1)
    difference = blocks_e[even].mean(axis=1) - mean_m
    counts, sums = [], []
    for period in PERIODS:
        phases = (mean_m % period * (PHASES / period)).astype(int) % PHASES
        counts.append(np.bincount(phases, minlength=PHASES).astype(np.float64))
        sums.append(np.bincount(phases, weights=difference, minlength=PHASES).astype(np.float64))
    return DepthSums(np.stack(counts), np.stack(sums), float((difference * difference).sum()))


def depth_use(sums: Sequence[DepthSums]) -> DepthUse | None:
    """Return whether fine levels came through; None with too few blocks on fine gradients."""
    if not sums:
        return None
    count = np.sum([one.count for one in sums], axis=0)
    if count[0].min() < LEAST_PHASE_BLOCKS:
        return None
    added = np.sum([one.sum for one in sums], axis=0)
    total = count[0].sum()
    variance = sum(one.square for one in sums) / total - (added[0].sum() / total) ** 2
    shares = []
    for number, period in enumerate(PERIODS):
        told = count[number] >= LEAST_PHASE_BLOCKS
        # A full sawtooth deviates from its middle by period ÷ √12.
        steps = (added[number][told] / count[number][told]).std() if told.all() else 0.0
        shares.append(float(steps / (period / 12**0.5)))
    return DepthUse(
        residual=float(np.sqrt(max(variance, 0))), step_share=shares[0], coarser=tuple(shares[1:])
    )


def _blocks(plane: Plane) -> npt.NDArray[np.float32]:
    """Return a plane's 8 × 8 blocks as rows of 64 codes."""
    height, width = (side // 8 * 8 for side in plane.shape)
    cut = plane[:height, :width].reshape(height // 8, 8, width // 8, 8)
    return cut.swapaxes(1, 2).reshape(-1, 64).astype(np.float32)
