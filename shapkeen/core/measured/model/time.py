"""Which frames there are."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class TimeEvent:
    """Frames that are missing, or that are shown again, at one place.

    master_frame: the first that is missing, or the one that is shown again. export_frame: the
    first one after the gap, or the first that repeats. count: how many frames.
    """

    master_frame: int
    export_frame: int
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeFindings:
    """How the export's frames follow the master's.

    matched: frames of the export that are a frame of the master. trimmed_in, trimmed_out: frames
    of the master before the first and after the last one matched. added_in, added_out: frames of
    the export before the first and after the last; foreign: within. blended: frames of the export
    that mix two of the master's. still_share: of frames that are like their neighbours, so that
    nobody can tell whether one of them is missing. noise: what coding alone puts between a frame
    and its master, in squared distance of signatures. way: (export frame, master frame), thinned.
    """

    matched: int
    trimmed_in: int
    trimmed_out: int
    added_in: int
    added_out: int
    foreign: int
    dropped: tuple[TimeEvent, ...]
    repeated: tuple[TimeEvent, ...]
    blended: tuple[int, ...]
    still_share: float
    noise: float
    way: tuple[tuple[int, int], ...]

    @property
    def has_events(self) -> bool:
        """Return whether a frame is missing, repeated or mixed between the ends."""
        return bool(self.dropped or self.repeated or self.blended)

    @property
    def has_other_ends(self) -> bool:
        """Return whether one of both begins or ends elsewhere."""
        return any((self.trimmed_in, self.trimmed_out, self.added_in, self.added_out))

    @property
    def missing(self) -> int:
        """Return how many frames are missing between the first and the last one matched."""
        return sum(event.count for event in self.dropped)

    @property
    def shown_again(self) -> int:
        """Return how many frames repeat one before them."""
        return sum(event.count for event in self.repeated)
