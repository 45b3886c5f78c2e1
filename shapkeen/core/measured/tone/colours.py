"""Pairs of colours, expected and delivered, from flat blocks: what a look-up table is made from."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..model import COLOUR_STEPS, ColourPairs
from .blocks import Blocks

CELL_CODES = (4.0, 8.0, 12.0, 16.0, 24.0, 32.0, 48.0, 64.0, 96.0)
MOST_CELLS = 3000
ASIDE = 3
"""Every third pair of frames is not fitted to, but tells how well it went."""
Rows = tuple[tuple[int, ...], ...]


def colour_pairs(blocks: Sequence[Blocks]) -> ColourPairs | None:
    """Return the colours of all pairs of frames in cells; None where there are none.

    Of a single pair of frames, every third block is kept aside.
    """
    tables = [_table(one) for one in blocks]
    if len(tables) < ASIDE:
        whole = np.concatenate(tables) if tables else np.zeros((0, 6))
        tables = [whole[at::ASIDE] for at in range(ASIDE)]
    aside = np.concatenate(tables[ASIDE - 1 :: ASIDE])
    fitted = np.concatenate([one for at, one in enumerate(tables) if at % ASIDE != ASIDE - 1])
    if not len(aside) or not len(fitted):
        return None
    return ColourPairs(fitted=_rows(fitted), aside=_rows(aside))


def _table(blocks: Blocks) -> npt.NDArray[np.float64]:
    """Return blocks as rows of expected luma, Cb, Cr, and delivered ones."""
    planes = (blocks.luma, blocks.cb, blocks.cr)
    return np.column_stack([plane[side] for side in (0, 1) for plane in planes])


def _rows(table: npt.NDArray[np.float64]) -> Rows:
    """Return means of cells of like expected colour, in the finest cells that are not too many."""
    for side in CELL_CODES:
        keys = np.floor(table[:, :3] / side).astype(np.int64)
        _, cell, counts = np.unique(keys, axis=0, return_inverse=True, return_counts=True)
        if len(counts) <= MOST_CELLS:
            break
    sums = [np.bincount(cell.ravel(), table[:, i], len(counts)) for i in range(6)]
    means = np.round(np.stack(sums, axis=1) / counts[:, None] * COLOUR_STEPS).astype(int)
    return tuple(map(tuple, np.column_stack([means, counts]).tolist()))
