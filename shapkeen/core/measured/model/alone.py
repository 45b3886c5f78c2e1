"""What a file shows by itself, of some frames reached by seeking."""

from dataclasses import dataclass

from .file import Bars, CodeUse


@dataclass(frozen=True, slots=True, kw_only=True)
class StepFindings:
    """How the picture moves from frame to frame, over some stretches of following frames.

    steps: how many were looked at, between frames that move; 0 where nothing does. held: in how
    many the picture stood still between two that move; leaps: in how many it moved on by as much as
    two or more of those beside it.
    """

    steps: int
    held: int
    leaps: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AloneFindings:
    """What some frames of one file show with nothing to hold them against; None = cannot be told.

    frames: how many. bars: even lines at the edges of all of them. woven: share of blocks that are
    woven from two fields, in most frames. repeated: by how much less neighbours differ within
    groups of samples than between them, 0 equal to 1 alike; ratio: how many make a group. codes:
    luma codes in use. low, middle, high: luma signal at the 1st, 50th and 99.9th percentile, 0 to 1
    of its range. colour: mean of |Cb| and |Cr|, of the same. projection: by the picture's own
    signs, in that trait's words, None also where it is flat; eyes: how they share the picture, as
    geometry/packing.py names it; seam: step from the right edge to the left one, in ordinary steps.
    """

    frames: int
    raster: tuple[int, int]
    bars: Bars | None
    woven: float
    repeated: float
    ratio: int
    codes: CodeUse
    low: float
    middle: float
    high: float
    colour: float
    steps: StepFindings
    projection: str | None = None
    eyes: str | None = None
    seam: float | None = None
