"""Flat blocks of a registered pair: where the mean of a few samples tells what became of a code."""

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from ..decoded.grid import Real
from .acts import TOP, Vector

BLOCK = 8
BINS = 64
MOST_A_BIN = 60
FLAT_CODES = 10.0
"""Standard deviation in a block up to which it counts as flat: coding noise, not structure."""
EVENEST_PERCENT = 40
FEW_BINS = 4
LEAST_A_BIN = 4
UNEVEN_CODES = 100.0
"""Standard deviation up to which a block's mean still follows the curve within a code, unless the
curve breaks: half its bend (2e-4 a code at a power of 1.2) times the variance."""
UNEVEN_A_BIN = 24
PLANES = ("luma", "cb", "cr")


@dataclass(frozen=True, slots=True)
class Blocks:
    """Block means of one or more pairs: (n,) arrays, expected and delivered, 10-bit codes.

    uneven: how many of them hold structure, for want of flat ones.
    """

    luma: tuple[Vector, Vector]
    cb: tuple[Vector, Vector]
    cr: tuple[Vector, Vector]
    uneven: int = 0


@dataclass(frozen=True, slots=True)
class FlatBlocks:
    """All flat blocks of one pair, and uneven ones of tones that have no flat ones.

    shape: rows and columns of the grid of blocks. places: (n,) indices into it. means: (6, n)
    of expected luma, Cb, Cr and of delivered luma, Cb, Cr, 10-bit codes. uneven: (n,) which.
    """

    shape: tuple[int, int]
    places: npt.NDArray[np.int32]
    means: npt.NDArray[np.float32]
    uneven: npt.NDArray[np.bool_]

    def chosen(self, without: npt.NDArray[np.bool_] | None = None) -> Blocks:
        """Return at most MOST_A_BIN blocks for each of BINS ranges of code, evenly picked.

        without: places to leave out, a coarser grid over the picture.
        """
        allowed = np.ones(len(self.places), bool)
        if without is not None:
            size = (self.shape[1], self.shape[0])
            left_out = cv2.resize(without.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
            allowed = left_out.ravel()[self.places] == 0
        picked = _stratified(self.means[0].astype(np.float64), allowed)
        planes = self.means[:, picked].astype(np.float64)
        luma, cb, cr = ((planes[i], planes[i + 3]) for i in range(3))
        return Blocks(luma, cb, cr, uneven=int(self.uneven[picked].sum()))


def block_means(plane: Real, block: int) -> Real:
    """Return the means of whole blocks of a plane (row, column)."""
    height, width = (side // block * block for side in plane.shape)
    shape = (height // block, block, width // block, block)
    return np.asarray(plane[:height, :width].reshape(shape).mean(axis=(1, 3)))


def _deviations(plane: Real, block: int) -> Real:
    variance = block_means(plane * plane, block) - block_means(plane, block) ** 2
    return np.asarray(np.sqrt(np.maximum(variance, 0)))


def flat_blocks(expected: dict[str, Real], delivered: dict[str, Real]) -> FlatBlocks:
    """Return one pair's flat blocks. Planes: luma, and cb and cr of half its size."""
    spread = _deviations(expected["luma"], BLOCK)
    # Grain roughens every block alike; the evenest part then serves, for means average it out.
    limit = max(FLAT_CODES, float(np.percentile(spread, EVENEST_PERCENT)))
    flat = (spread < limit) & (_deviations(delivered["luma"], BLOCK) < 2 * limit)
    # A registration a fraction of a sample off shows at edges only, which a margin leaves out.
    flat = cv2.erode(flat.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool) | (
        flat & (spread < limit / 4)
    )
    rows, columns = spread.shape
    means = [
        block_means(planes[name], BLOCK if name == "luma" else BLOCK // 2)[:rows, :columns].ravel()
        for planes in (expected, delivered)
        for name in PLANES
    ]
    more = _where_few_are_flat(spread.ravel(), means[0], np.flatnonzero(flat))
    places = np.union1d(np.flatnonzero(flat), more)
    return FlatBlocks(
        (rows, columns),
        places.astype(np.int32),
        np.stack([plane[places] for plane in means]).astype(np.float32),
        ~flat.ravel()[places],
    )


def _where_few_are_flat(
    spread: Real, means: Real, flat: npt.NDArray[np.intp]
) -> npt.NDArray[np.intp]:
    """Return the evenest blocks of tones that have no flat ones, where hardly any tone has.

    A dark picture's only flat blocks are its black, which tells no curve.
    """
    bins = code_bins(means.astype(np.float64))
    served = np.bincount(bins[flat], minlength=BINS) >= LEAST_A_BIN
    if served.sum() >= FEW_BINS:
        return np.zeros(0, np.intp)
    chosen = []
    for number in np.unique(bins[spread < UNEVEN_CODES]):
        members = np.flatnonzero((bins == number) & (spread < UNEVEN_CODES))
        if not served[number]:
            chosen.append(members[np.argsort(spread[members], kind="stable")[:UNEVEN_A_BIN]])
    return np.concatenate(chosen) if chosen else np.zeros(0, np.intp)


def code_bins(values: Vector) -> npt.NDArray[np.intp]:
    """Return the range of code, 0 to BINS - 1, that each value falls into."""
    return np.clip(values / (TOP + 1) * BINS, 0, BINS - 1).astype(np.intp)


def _stratified(values: Vector, allowed: npt.NDArray[np.bool_]) -> npt.NDArray[np.intp]:
    """Return indices of allowed blocks, evenly picked from each range of code."""
    bins = code_bins(values)
    chosen = []
    for number in range(BINS):
        members = np.flatnonzero(allowed & (bins == number))
        if len(members) > MOST_A_BIN:
            members = members[np.linspace(0, len(members) - 1, MOST_A_BIN).astype(int)]
        chosen.append(members)
    return np.concatenate(chosen)
