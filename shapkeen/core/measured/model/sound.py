"""What the sound beside the pictures shows: of each file's first track, and of both together."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundTrack:
    """What one file's first sound track holds.

    seconds: from the picture's first frame to the last sample. silent: share of its time, 0 to 1.
    Loudness by ITU-R BS.1770-4, its range by EBU Tech 3342; None where the meter does not know the
    channels, or all is silent. series: (seconds, momentary LUFS), thinned for drawing.
    """

    channels: int
    sample_rate_hz: int
    layout: str
    seconds: float
    silent: float
    peak_dbfs: float | None = None
    integrated_lufs: float | None = None
    range_lu: float | None = None
    true_peak_dbtp: float | None = None
    series: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundMoment:
    """A stretch of the master's sound, found again in the export's.

    master_s: where its middle lies. late_s: by how much later it is heard in the export, once the
    speed at which the sound plays is reckoned in; picture_s: by how much later the frame is shown
    that belongs to it, in the same reckoning. likeness: correlation of levels, -1 to 1.
    """

    master_s: float
    late_s: float
    picture_s: float
    likeness: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundMix:
    """Which of the master's channels are heard in each of the export's.

    gains: export's channels × master's, by least squares over the loudest stretches; 1.0 = as it
    was. unexplained: share of an export channel's power that no mix of them gives. alike: whether
    the master's channels are so alike that nobody can tell one from another. held_down_db: by how
    much the loudest peak falls short of what the mix gives.
    """

    gains: tuple[tuple[float, ...], ...]
    unexplained: tuple[float, ...]
    alike: bool
    held_down_db: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundFindings:
    """What the sound of a pair shows.

    master, export: None without a track; faults: why one could not be decoded, empty where it
    could. speed: master's seconds that play in one of the export's. moments: empty where levels
    hardly move, so that nobody can tell when they are heard. gaps: (from, to) of the master's
    seconds in which it sounds and the export is silent. whole: whether all of it was heard, or only
    its beginning.
    """

    master: SoundTrack | None
    export: SoundTrack | None
    faults: tuple[str, str] = ("", "")
    speed: float = 1.0
    moments: tuple[SoundMoment, ...] = ()
    mix: SoundMix | None = None
    gaps: tuple[tuple[float, float], ...] = ()
    whole: bool = True
