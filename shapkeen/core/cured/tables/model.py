"""The nouns of look-up tables: colours to make them from, and what was made."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...colour.lookup import LookUpTable, Triples

SOURCE, EXPORT = "source", "export"
"""Where a table is put over: the master on its way out, or the export."""
USES = (SOURCE, EXPORT)
SIZES = (17, 33, 65)
"""Of a lattice."""
CURVE_SIZE = 1024
UNDONE = frozenset(
    {
        "range-compressed",
        "range-expanded",
        "gamma-shifted",
        "transfer-converted",
        "tone-compressed",
        "matrix-swapped",
        "gamut-converted",
    }
)
"""Causes that a table can take back, at least where colours stayed apart."""


@dataclass(frozen=True, slots=True, eq=False)
class Colours:
    """Colours as R'G'B' signals in the promised coding: what was expected and what came, (n, 3).

    counts (n,): how many places each stands for.
    """

    expected: Triples
    delivered: Triples
    counts: npt.NDArray[np.float64]

    def turned_round(self) -> "Colours":
        """Return the same with expected and delivered exchanged."""
        return Colours(self.delivered, self.expected, self.counts)


@dataclass(frozen=True, slots=True)
class ColourError:
    """How far colours are from what was expected, in units of eyes."""

    mean: float
    worst: float
    unit: str


@dataclass(frozen=True, slots=True)
class Beyond:
    """share: of the places whose colour cannot come back, 0 to 1. why: None where that is 0."""

    share: float
    why: str | None


@dataclass(frozen=True, slots=True, eq=False)
class DriftTable:
    """A table that undoes a drift. use: SOURCE or EXPORT. undoes: causes, by their identifiers.

    before, after: of colours that the table was not made from. extrapolated: share of its entries
    without a colour of the picture near them.
    """

    table: LookUpTable
    use: str
    undoes: tuple[str, ...]
    before: ColourError
    after: ColourError
    beyond: Beyond
    extrapolated: float


@dataclass(frozen=True, slots=True)
class NoTable:
    """That no table undoes it, and why; with how far colours are off, where that is known."""

    use: str
    why: str
    before: ColourError | None = None
    after: ColourError | None = None
