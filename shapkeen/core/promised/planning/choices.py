"""The few real choices of a plan; all else follows from them."""

from dataclasses import dataclass
from fractions import Fraction

from ...geometry.framing import Size
from ..specification import Coding

MODES = {
    "own": "own shape, no bars",
    "bars": "whole, with bars",
    "fill": "fill, and cut what is over",
    "cut": "cut at full size",
}
RATE_WAYS = {
    "speed": "played faster or slower, each frame once",
    "frames": "at the same speed, frames repeated or left out",
}
SPEED_SHARE = Fraction(1, 20)
"""24 to 25 frames/s is 4.2 %: the most that goes unnoticed with the sound's pitch set back (common
practice, no source)."""
SQUEEZES = {"resample": "resample to square samples", "flag": "keep the flag"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    """Where the cut lies during one shot: frames of the master, both ends included."""

    first: int
    last: int
    across: float
    down: float

    def holds(self, frame: int) -> bool:
        """Return whether a frame of the master belongs to the shot."""
        return self.first <= frame <= self.last


@dataclass(frozen=True, slots=True, kw_only=True)
class Choices:
    """What the editor decides.

    mode: one of MODES; squeeze: of SQUEEZES; rate_way: of RATE_WAYS.
    sharpen: a little, on purpose, for a service that softens. across, down:
    where a cut lies, 0 left or top to 1. bit_rate: bits a second; line_rate: of
    the line that it is sent over. first, end: frames of the master between which lies what is
    delivered, end not included; None to its own ends.
    """

    size: Size
    mode: str = "own"
    squeeze: str = "resample"
    across: float = 0.5
    down: float = 0.5
    shots: tuple[Shot, ...] = ()
    coding: Coding
    bit_rate: int
    rate: Fraction
    rate_way: str = "speed"
    packing: str = "one eye"
    line_rate: float = 20e6
    sharpen: bool = False
    first: int | None = None
    end: int | None = None

    @property
    def is_marked(self) -> bool:
        """Return whether only a part of the master is delivered."""
        return self.first is not None or self.end is not None

    def marks(self, frames: int) -> tuple[int, int]:
        """Return the first frame and the one after the last, of a master of so many."""
        return self.first or 0, frames if self.end is None else min(self.end, frames)
