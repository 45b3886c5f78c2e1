"""What is measured, and how its samples are to be read."""

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

from ...colour.coding import Coding
from ...geometry.packing import MONO
from ...geometry.sphere import Turn

DEFAULT_FRAMES = 24
Progress = Callable[[int, int], None]
"""Called with (done, total); may raise to stop."""


@dataclass(frozen=True, slots=True)
class Move:
    """A stretch of the master whose cut is promised elsewhere: frames, both ends included.

    dx, dy: by how many samples right and down the cut lies from where it does in the rest.
    """

    first: int
    last: int
    dx: int
    dy: int


@dataclass(frozen=True, slots=True)
class Repacking:
    """How a master must be laid out anew, to lie as its export does.

    ways: how eyes share the master's picture, and the export's (geometry/packing.py). eyes: which
    of the master's eyes, by place, lies in each place of the export. turn: of a sphere's content.
    shifts: by how much each place's eye is moved right and down, as shares of its size, and how
    many times as large it becomes.
    """

    ways: tuple[str, str] = (MONO, MONO)
    eyes: tuple[int, ...] = (0,)
    turn: Turn = field(default_factory=Turn)
    shifts: tuple[tuple[float, float, float], ...] = ()

    @property
    def is_plain(self) -> bool:
        """Return whether the master lies as the export does already."""
        plain = self.eyes == tuple(range(len(self.eyes)))
        still = self.turn == Turn() and all(by == (0, 0, 1) for by in self.shifts)
        return self.ways[0] == self.ways[1] and plain and still


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How to read a file's samples; told by the caller, never looked up here.

    transfer, matrix, primaries: H.273 codes, None where nobody says. rate: frames a second.
    peak_nits: the mastering display's peak in cd/m², None where nobody says. aspect: how much
    wider than high a sample is shown. moves: of a master whose cut changes from shot to shot.
    projection, stereo: as the file is meant to be laid out, None where nobody says. arrangement:
    of a master, once it is known that its export lies otherwise.
    """

    full_range: bool
    transfer: int | None
    matrix: int | None
    rate: Fraction
    frame_count: int | None
    primaries: int | None = None
    peak_nits: float | None = None
    aspect: float = 1.0
    moves: tuple[Move, ...] = ()
    projection: str | None = None
    stereo: str | None = None
    repacking: Repacking | None = None

    def moved(self, number: int) -> tuple[int, int]:
        """Return by how many samples the cut of a frame lies right and down of the rest's."""
        for move in self.moves:
            if move.first <= number <= move.last:
                return move.dx, move.dy
        return 0, 0


def coding_of(reading: Reading) -> Coding:
    """Return how 10-bit triples of a file are meant; what nobody says is 0."""
    return Coding(
        transfer=reading.transfer or 0,
        primaries=reading.primaries or 0,
        matrix=reading.matrix or 0,
        full_range=reading.full_range,
    )


@dataclass(frozen=True, slots=True)
class Source:
    """A file and how to read it."""

    path: Path
    reading: Reading
