"""What counting every sample of some frames gives: whole numbers that add up in any order."""

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from .kernels import BINS, C_CELLS, STEPS, Y_CELLS

Counts = npt.NDArray[np.int64]


FIGURES = np.dtype(
    [
        ("ticks", np.int64),
        ("brightest", np.float64),
        ("average", np.float64),
        ("p999", np.float64),
        ("p9999", np.float64),
        ("outside_wider", np.int64),
        ("outside_narrower", np.int64),
    ]
)
"""One frame: time in the stream's ticks, light in cd/m² (0 where none is measured), shares.

brightest, p999, p9999: of each sample's brightest channel. outside_wider, outside_narrower:
samples outside P3-D65 and BT.709.
"""
Figures = npt.NDArray[np.void]
"""FIGURES of frames (n,), in order of time."""


@dataclass(frozen=True, slots=True)
class Tally:
    """All counts over some frames. Adding is associative: cutting a file changes nothing.

    raster, depth: of every frame counted. codes: luma codes. brightest: each sample's brightest
    channel by bin. cells: colours (Y, Cb, Cr), thinned. steps: between even runs, by codes.
    skipped: frames of another raster or depth than the first.
    """

    raster: tuple[int, int]
    depth: int
    frames: Figures
    codes: Counts
    brightest: Counts
    cells: Counts
    steps: Counts
    skipped: int = 0


def empty_tally(raster: tuple[int, int], depth: int) -> Tally:
    """Return a tally of no frames."""
    return Tally(
        raster,
        depth,
        np.zeros(0, FIGURES),
        np.zeros(1 << depth, np.int64),
        np.zeros(BINS, np.int64),
        np.zeros((Y_CELLS, C_CELLS, C_CELLS), np.int64),
        np.zeros(STEPS, np.int64),
    )


class TallySum:
    """Adds tallies as they come, in any order, and keeps none of them.

    Segments of another raster or depth than the earliest count as skipped.
    """

    def __init__(self) -> None:
        """Start without any."""
        self._kinds: dict[tuple[tuple[int, int], int], _Kind] = {}

    def add(self, tally: Tally) -> None:
        """Add a tally; one without frames tells nothing."""
        if not len(tally.frames):
            return
        kind = self._kinds.setdefault((tally.raster, tally.depth), _Kind())
        kind.frames.append(tally.frames)
        kind.skipped += tally.skipped
        counts = (tally.codes, tally.brightest, tally.cells, tally.steps)
        kind.counts = kind.counts or [np.zeros_like(one) for one in counts]
        for total, one in zip(kind.counts, counts, strict=True):
            np.add(total, one, out=total)  # in place: a table of colours alone is 4 MB

    def result(self) -> Tally | None:
        """Return one tally of all, frames in order of time; None of none."""
        if not self._kinds:
            return None
        found = {key: np.sort(np.concatenate(kind.frames)) for key, kind in self._kinds.items()}
        raster, depth = key = min(found, key=lambda one: found[one][0].item())
        kind = self._kinds[key]
        odd = sum(len(frames) for frames in found.values()) - len(found[key])
        skipped = odd + sum(one.skipped for one in self._kinds.values())
        codes, brightest, cells, steps = kind.counts
        return Tally(raster, depth, found[key], codes, brightest, cells, steps, skipped)


@dataclass(slots=True)
class _Kind:
    """What tallies of one raster and depth add up to: codes, brightest, cells, steps."""

    frames: list[Figures] = field(default_factory=list)
    counts: list[Counts] = field(default_factory=list)
    skipped: int = 0


def joined(tallies: Iterable[Tally]) -> Tally | None:
    """Return one tally of all, frames in order of time; None of none."""
    whole = TallySum()
    for tally in tallies:
        whole.add(tally)
    return whole.result()
