"""Where chroma samples lie, and how a part of one picture becomes a part of another.

Source: ITU-T H.273 figures 1 and 2 (Chroma420SampleLocType), ITU-R BT.601 and BT.2100-2 table 7
(4:2:2 and 4:4:4: chroma at the place of luma).
"""

from dataclasses import dataclass
from functools import lru_cache
from math import ceil

from ....geometry.framing import STEPS, Area
from .resampling import Resampler
from .sampling import Grid, weights_between

CENTRES = {0: (0.5, 1.0), 1: (1.0, 1.0), 2: (0.5, 0.5), 3: (1.0, 0.5), 4: (0.5, 1.5), 5: (1.0, 1.5)}
"""Location type → the first chroma sample's centre, across and down, in luma samples."""
LEFT = 0


@dataclass(frozen=True, slots=True)
class Lattice:
    """Where a plane's samples lie in its picture: first centre and step, across and down."""

    first: tuple[float, float] = (0.5, 0.5)
    step: tuple[int, int] = (1, 1)

    def within(self, start: int, length: int, axis: int) -> tuple[int, Grid]:
        """Return the first sample inside a stretch of luma samples, and the grid from there."""
        first, step = self.first[axis], self.step[axis]
        at = max(ceil((start - first) / step), 0)
        count = max(ceil((start + length - first) / step) - at, 0)
        return at, Grid(count, first + at * step - start, float(step))


LUMA = Lattice()


def chroma_lattice(chroma: str, location: int) -> Lattice:
    """Return where a chroma sampling's samples lie; raises KeyError for one without chroma."""
    steps = STEPS[chroma]
    place = CENTRES[location] if chroma == "4:2:0" else (0.5, 0.5)
    return Lattice(place, steps)


def slices_of(lattice: Lattice, area: Area) -> tuple[slice, slice]:
    """Return rows and columns of a plane whose samples lie in an area of luma samples."""
    left, across = lattice.within(area.left, area.width, 0)
    top, down = lattice.within(area.top, area.height, 1)
    return slice(top, top + down.count), slice(left, left + across.count)


@lru_cache(maxsize=128)
def resampler_between(source: Lattice, part: Area, goal: Lattice, place: Area) -> Resampler:
    """Return how the part of a plane of one picture becomes that of another's at a place.

    Nothing outside the part is looked at, so what was cut off leaves no edge.
    """
    left, across = source.within(part.left, part.width, 0)
    top, down = source.within(part.top, part.height, 1)
    goal_across = goal.within(place.left, place.width, 0)[1]
    goal_down = goal.within(place.top, place.height, 1)[1]
    return Resampler(
        left,
        top,
        weights_between(across, goal_across, start=0.0, scale=part.width / place.width),
        weights_between(down, goal_down, start=0.0, scale=part.height / place.height),
    )
