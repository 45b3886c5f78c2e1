"""What is measured, and how its samples are to be read."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ...colour.coding import Coding

DEFAULT_FRAMES = 24
Progress = Callable[[int, int], None]
"""Called with (done, total); may raise to stop."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How to read a file's samples; told by the caller, never looked up here.

    transfer, matrix, primaries: H.273 codes, None where nobody says. rate: frames a second.
    peak_nits: the mastering display's peak in cd/m², None where nobody says. aspect: how much
    wider than high a sample is shown.
    """

    full_range: bool
    transfer: int | None
    matrix: int | None
    rate: Fraction
    frame_count: int | None
    primaries: int | None = None
    peak_nits: float | None = None
    aspect: float = 1.0


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
