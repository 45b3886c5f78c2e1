"""Which codes a picture uses: range in use, levels, and the comb of a reduced depth."""

import numpy as np
import numpy.typing as npt

from ...colour.quantisation import luma_offset_span
from ..model import CodeUse

COMBED, LEAST_BITS = 0.9, 4
"""Share of codes on one remainder, from which the others are not in use."""


def code_use(counts: npt.NDArray[np.int64], depth: int) -> CodeUse:
    """Return how counts of luma codes (1 << depth) are spread; shares are of all samples."""
    total = int(counts.sum())
    used = np.flatnonzero(counts)
    summed = np.cumsum(counts)
    black, span = luma_offset_span(depth=depth, full_range=False)
    scale = 1 << (depth - 8)
    comb, bits = 0.25, depth
    if depth > 8:
        # Ends are left out: clipped blacks and whites pile up on one code by right.
        inner = counts[black + 1 : black + span]
        comb = _comb(inner, 4)
        while bits > LEAST_BITS and _comb(inner, 1 << (depth - bits + 1)) >= COMBED:
            bits -= 1
    return CodeUse(
        depth=depth,
        lowest=int(used[0]),
        highest=int(used[-1]),
        p001=int(np.searchsorted(summed, 0.001 * total)),
        p999=int(np.searchsorted(summed, 0.999 * total)),
        below_black=float(counts[: black - scale].sum() / total),
        above_white=float(counts[black + span + scale + 1 :].sum() / total),
        levels=len(used),
        comb=comb,
        bits=bits,
    )


def _comb(counts: npt.NDArray[np.int64], period: int) -> float:
    """Return the largest share that codes of one remainder have."""
    phases = [counts[i::period].sum() for i in range(period)]
    return float(max(phases) / max(sum(phases), 1))
