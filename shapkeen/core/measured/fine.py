"""Fine structure at full size: detail that came through, and levels that did.

Each pair gives sums; they are added up in the order of frames, so that how a file was cut changes
nothing.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .frames import Plane
from .model import DepthUse

TILE, MOST_TILES = 256, 40
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
WINDOW = np.outer(np.hanning(TILE), np.hanning(TILE))


def _band() -> npt.NDArray[np.bool_]:
    down, across = np.abs(np.fft.fftfreq(TILE)) * 2, np.fft.rfftfreq(TILE) * 2  # of Nyquist
    radius = np.maximum(down[:, None], across[None, :])
    return np.asarray((radius >= LOW_BAND) & (radius < HIGH_BAND))


BAND = _band()


@dataclass(frozen=True, slots=True)
class DetailSums:
    """Cross-spectrum of export with master over the tiles of a pair, within the band.

    shared: of both; own: the master's power; tiles: how many.
    """

    shared: float
    own: float
    tiles: int


def detail_sums(master: Plane, export: Plane, *, scales: tuple[float, float]) -> DetailSums:
    """Return the sums over tiles of one pair of equal rasters; scales bring codes to 10 bits."""
    shared = own = 0.0
    places = _tiles(master.shape)
    for place in places:
        spectrum_m, spectrum_e = (
            np.fft.rfft2((plane[place] - plane[place].mean()) * (WINDOW * scale))[BAND]
            for plane, scale in zip((master, export), scales, strict=True)
        )
        shared += float((spectrum_e * spectrum_m.conj()).real.sum())
        own += float((np.abs(spectrum_m) ** 2).sum())
    return DetailSums(shared, own, len(places))


def _tiles(shape: tuple[int, ...]) -> list[tuple[slice, slice]]:
    """Return at most MOST_TILES tiles, evenly picked from a grid over the picture."""
    height, width = shape[:2]
    every = [
        (slice(top, top + TILE), slice(left, left + TILE))
        for top in range(0, height - TILE + 1, TILE)
        for left in range(0, width - TILE + 1, TILE)
    ]
    return every[:: -(-len(every) // MOST_TILES)] if every else []


def detail_transfer(sums: Sequence[DetailSums]) -> float | None:
    """Return the part of the master's detail in the band that came through, 0 to about 1.

    None where there are no tiles, or the master has no detail there.
    """
    tiles, own = sum(one.tiles for one in sums), sum(one.own for one in sums)
    if not tiles:
        return None
    power = own / (tiles * float(BAND.sum())) / float((WINDOW**2).sum())
    return sum(one.shared for one in sums) / own if power > LEAST_POWER else None


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
