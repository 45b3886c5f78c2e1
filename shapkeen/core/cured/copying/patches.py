"""Which bytes of a file are exchanged for others, and where all others then lie."""

from bisect import bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True)
class Patch:
    """`size` bytes from `start` of the original give way to `data`; either may be nothing."""

    start: int
    size: int
    data: bytes

    @property
    def end(self) -> int:
        """Return where the original goes on."""
        return self.start + self.size

    @property
    def growth(self) -> int:
        """Return by how much the copy becomes longer."""
        return len(self.data) - self.size


@dataclass(frozen=True, slots=True)
class Kept:
    """A stretch of the original that the copy holds byte for byte."""

    start: int
    size: int


class Patches:
    """Patches of one file in file order; none touches a byte that another does."""

    def __init__(self, patches: Iterable[Patch]) -> None:
        """Sort them; raises ValueError where two overlap."""
        self._sorted = sorted(patches, key=lambda patch: (patch.start, patch.size > 0))
        self._grown, total = [], 0
        for number, patch in enumerate(self._sorted):
            if number and self._sorted[number - 1].end > patch.start:
                raise ValueError(f"two patches overlap at byte {patch.start}")
            total += patch.growth
            self._grown.append(total)
        # What is put in before a byte moves it; what a patch takes away begins where it stood.
        self._marks = [2 * patch.start + (patch.size > 0) for patch in self._sorted]

    def __iter__(self) -> Iterator[Patch]:
        """Yield the patches in file order."""
        return iter(self._sorted)

    @property
    def growth(self) -> int:
        """Return by how much the copy is longer than the original."""
        return self._grown[-1] if self._grown else 0

    def moved(self, offset: int) -> int:
        """Return where a byte of the original lies in the copy, or begins what it gave way to.

        Where something is put in just before a byte, that byte lies behind it.
        """
        before = bisect_right(self._marks, 2 * offset)
        return offset + (self._grown[before - 1] if before else 0)

    def moved_all(self, offsets: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        """Return where many bytes of the original lie in the copy, as `moved` does."""
        grown = np.array([0, *self._grown], np.int64)
        before = np.searchsorted(np.array(self._marks, np.int64), 2 * offsets, side="right")
        return np.asarray(offsets + grown[before])

    def pieces(self, size: int) -> Iterator[Kept | bytes]:
        """Yield what the copy of a file of `size` bytes is made of, in its order."""
        at = 0
        for patch in self._sorted:
            if patch.start > at:
                yield Kept(at, patch.start - at)
            if patch.data:
                yield patch.data
            at = patch.end
        if at < size:
            yield Kept(at, size - at)
