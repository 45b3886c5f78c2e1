"""Which codes a picture uses: range in use, levels, and the comb of a reduced depth."""

import numpy as np
import numpy.typing as npt

from ..colour.quantisation import luma_offset_span
from .frames import Frame
from .model import CodeUse


class CodeCounter:
    """Counts luma codes over frames; adding is associative, so order does not matter."""

    def __init__(self, depth: int) -> None:
        """Start empty for samples of `depth` bits."""
        self.depth = depth
        self.counts: npt.NDArray[np.int64] = np.zeros(1 << depth, dtype=np.int64)

    def add(self, frame: Frame) -> None:
        """Count every luma sample of a frame."""
        counted = np.bincount(frame.luma.reshape(-1), minlength=1 << self.depth)
        self.counts += counted[: 1 << self.depth]

    def result(self) -> CodeUse:
        """Return the findings; shares and percentiles are over all samples added."""
        total = int(self.counts.sum())
        used = np.flatnonzero(self.counts)
        summed = np.cumsum(self.counts)
        black, span = luma_offset_span(depth=self.depth, full_range=False)
        scale = 1 << (self.depth - 8)
        comb = 0.25
        if self.depth > 8:
            # Ends are left out: clipped blacks and whites pile up on one code by right.
            inner = self.counts[black + 1 : black + span]
            phases = [inner[i::4].sum() for i in range(4)]
            comb = float(max(phases) / max(sum(phases), 1))
        return CodeUse(
            depth=self.depth,
            lowest=int(used[0]),
            highest=int(used[-1]),
            p001=int(np.searchsorted(summed, 0.001 * total)),
            p999=int(np.searchsorted(summed, 0.999 * total)),
            below_black=float(self.counts[: black - scale].sum() / total),
            above_white=float(self.counts[black + span + scale + 1 :].sum() / total),
            levels=len(used),
            comb=comb,
        )
