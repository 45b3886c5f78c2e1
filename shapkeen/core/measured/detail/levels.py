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

DEPTH_PHASES = 8
EVEN_BLOCK_CODES = 2
"""Within a block of so few codes an 8-bit step (4 codes) is met at most once."""
LEAST_PHASE_BLOCKS = 40
STAIRCASE_DEVIATION = 4 / 12**0.5
"""Deviation of a full sawtooth of 4 codes from its middle."""


@dataclass(frozen=True, slots=True)
class DepthSums:
    """Differences of a pair over its smoothest blocks, by the master's code mod 4.

    count, sum: by DEPTH_PHASES phases. square: of all differences.
    """

    count: npt.NDArray[np.float64]
    sum: npt.NDArray[np.float64]
    square: float


def depth_sums(master: Plane, export: Plane) -> DepthSums:
    """Return the sums over blocks of one pair of equal rasters, both of 10 bits.

    On the smoothest blocks a picture cut to 8 bits differs from its master by a sawtooth of
    the master's two lowest bits; any other damage knows nothing of those bits. Block means
    outlive lossy coding, which wipes the staircase from the histogram.
    """
    blocks_m, blocks_e = _blocks(master), _blocks(export)
    even = np.ptp(blocks_m, axis=1) <= EVEN_BLOCK_CODES
    mean_m = blocks_m[even].mean(axis=1)
    difference = blocks_e[even].mean(axis=1) - mean_m
    phases = (mean_m % 4 * (DEPTH_PHASES / 4)).astype(int) % DEPTH_PHASES
    return DepthSums(
        np.bincount(phases, minlength=DEPTH_PHASES).astype(np.float64),
        np.bincount(phases, weights=difference, minlength=DEPTH_PHASES).astype(np.float64),
        float((difference * difference).sum()),
    )


def depth_use(sums: Sequence[DepthSums]) -> DepthUse | None:
    """Return whether fine levels came through; None with too few blocks on fine gradients."""
    if not sums:
        return None
    count = np.sum([one.count for one in sums], axis=0)
    if count.min() < LEAST_PHASE_BLOCKS:
        return None
    added = np.sum([one.sum for one in sums], axis=0)
    total = count.sum()
    variance = sum(one.square for one in sums) / total - (added.sum() / total) ** 2
    return DepthUse(
        residual=float(np.sqrt(max(variance, 0))),
        step_share=float((added / count).std() / STAIRCASE_DEVIATION),
    )


def _blocks(plane: Plane) -> npt.NDArray[np.float32]:
    """Return a plane's 8 × 8 blocks as rows of 64 codes."""
    height, width = (side // 8 * 8 for side in plane.shape)
    cut = plane[:height, :width].reshape(height // 8, 8, width // 8, 8)
    return cut.swapaxes(1, 2).reshape(-1, 64).astype(np.float32)
