"""Frame numbers: how a file's frames are numbered, and which of the master an export's is."""

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction

from ...decoded.frames import Opened, open_picture
from ...model import Source


@dataclass(frozen=True, slots=True)
class Timeline:
    """How frames of a file are numbered. start: ticks of frame 0; tick: seconds; rate: frames/s.

    untimed: a bare coded stream, whose pictures are numbered as they come.
    """

    start: int
    tick: Fraction
    rate: Fraction
    untimed: bool

    def number(self, ticks: int) -> int:
        """Return the number of the frame shown at this time."""
        return ticks if self.untimed else round((ticks - self.start) * self.tick * self.rate)

    def before(self, number: int) -> int:
        """Return a time between the frame of this number and the one before."""
        return self.start + round((number - Fraction(1, 2)) / self.rate / self.tick)


@dataclass(frozen=True, slots=True)
class FrameMap:
    """Which frame of the master an export's frame is taken from: number × ratio + offset.

    jumps: (number, shift): from this frame of the export on, so many frames further on.
    """

    ratio: Fraction
    offset: int
    jumps: tuple[tuple[int, int], ...] = ()

    def plain(self, export_number: int) -> int:
        """Return the master's number of an export's frame, jumps apart."""
        return round(export_number * self.ratio) + self.offset

    def master(self, export_number: int) -> int:
        """Return the master's number of an export's frame."""
        at = bisect_right(self.jumps, (export_number, 1 << 40))
        return self.plain(export_number) + (self.jumps[at - 1][1] if at else 0)


def timeline(source: Source) -> Timeline:
    """Return how the frames of a file are numbered; raises UnreadableFileError."""
    opened = open_picture(source.path, threads=1)
    with opened.container:
        return timeline_of(opened, source)


def timeline_of(opened: Opened, source: Source) -> Timeline:
    """Return how the frames of an opened file are numbered."""
    start = opened.stream.start_time
    return Timeline(start or 0, opened.tick, source.reading.rate, untimed=start is None)
