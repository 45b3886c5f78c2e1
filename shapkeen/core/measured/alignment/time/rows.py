"""A row of numbers for each frame of a file, looked at a block at a time: a film has too many."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

BLOCK = 512
"""Rows that are looked at at a time."""
Rows = npt.NDArray[np.float32]


class RowsByBlock(Protocol):
    """Rows of a file's frames, of unit length and free of brightness and contrast, in parts."""

    def __len__(self) -> int:
        """Return how many there are."""

    def rows(self, wanted: npt.NDArray[np.int64]) -> npt.NDArray[np.floating[Any]]:
        """Return some of them (k, m), by their places from 0."""


@dataclass(frozen=True, slots=True)
class HeldRows:
    """Rows that lie in memory."""

    table: Rows

    def __len__(self) -> int:
        return len(self.table)

    def rows(self, wanted: npt.NDArray[np.int64]) -> Rows:
        """Return some of them."""
        return self.table[wanted]


def blocks(
    rows: RowsByBlock, *, overlap: int = 0, size: int = BLOCK
) -> Iterator[tuple[int, npt.NDArray[np.floating[Any]]]]:
    """Yield all rows in blocks, each with its first one's place; overlap: rows given again."""
    for first in range(0, len(rows), size):
        begin = max(first - overlap, 0)
        yield begin, rows.rows(np.arange(begin, min(first + size, len(rows))))


def motions(rows: RowsByBlock) -> npt.NDArray[np.float64]:
    """Return how far each row lies from the one before (n,), squared; 0 for the first."""
    found = np.zeros(len(rows))
    for begin, block in blocks(rows, overlap=1):
        away = (np.diff(block.astype(np.float64), axis=0) ** 2).sum(axis=1)
        found[begin + 1 : begin + 1 + len(away)] = away
    return found
