"""What of the sound can be told: whether there is any, where it was found, how it is mixed."""

from dataclasses import dataclass
from statistics import median

from ..measured import SoundFindings, SoundMix, SoundMoment
from . import tolerances
from .evidence import Evidence, shown_rate
from .pairing import marks_of

LEAST_GAP_S = 0.15
"""What is left of a silent stretch where the picture is shown, and counts."""
MISSING, SILENT, FOREIGN, BROKEN = "missing", "silent", "foreign", "undecodable"
"""Why nothing more of the master's sound can be told in an export."""


def sound_in(evidence: Evidence) -> SoundFindings | None:
    """Return what the sound shows, None where nothing was measured of it."""
    return evidence.survey.sound if evidence.survey else None


def absence(evidence: Evidence) -> str:
    """Return why the master's sound is not in the export; empty where it is, or nobody can tell.

    Without a survey the headers tell that there is no track.
    """
    sound = sound_in(evidence)
    if sound is None:
        return "" if evidence.export.audio or evidence.survey else MISSING
    if sound.export is None:
        return BROKEN if sound.faults[1] else MISSING
    if sound.master is None or sound.master.silent >= tolerances.SILENT_SHARE:
        return ""
    if sound.export.silent >= tolerances.SILENT_SHARE:
        return SILENT
    return FOREIGN if _is_foreign([moment.likeness for moment in sound.moments]) else ""


def _is_foreign(likeness: list[float]) -> bool:
    """Return whether moments are as little alike as those of two sounds."""
    if len(likeness) < tolerances.LEAST_FOREIGN_MOMENTS:
        return False
    mean = sum(likeness) / len(likeness)
    return max(likeness) < tolerances.SOUND_FOREIGN and mean < tolerances.SOUND_FOREIGN_MEAN


def sure_moments(sound: SoundFindings) -> list[SoundMoment]:
    """Return the moments that were surely found again."""
    return [one for one in sound.moments if one.likeness >= tolerances.SOUND_FOUND]


@dataclass(frozen=True, slots=True)
class Sync:
    """Sound against its picture, in milliseconds; late is positive.

    late: of most moments; first, last: of the first and the last; worst: of the one that is most
    off. at_s: where that is, in the master.
    """

    late: float
    first: float
    last: float
    worst: float
    at_s: float

    @property
    def is_steady(self) -> bool:
        """Return whether all of it is early or late by the same."""
        return abs(self.worst - self.late) <= tolerances.SOUND_STEADY_MS


def sync_of(sound: SoundFindings) -> Sync | None:
    """Return how sound lies against the picture; None where no moment was surely found."""
    off = [((one.late_s - one.picture_s) * 1000, one.master_s) for one in sure_moments(sound)]
    if not off:
        return None
    middle = median(late for late, _ in off)
    worst, at = max(off, key=lambda item: abs(item[0]))
    farthest, where = max(off, key=lambda item: abs(item[0] - middle))
    if abs(farthest - middle) > tolerances.SOUND_STEADY_MS and abs(farthest) > abs(middle):
        worst, at = farthest, where
    elif abs(worst - middle) <= tolerances.SOUND_STEADY_MS:
        worst = middle
    return Sync(middle, off[0][0], off[-1][0], worst, at)


def gaps_within(evidence: Evidence, sound: SoundFindings) -> list[tuple[float, float]]:
    """Return the silent stretches, in the master's seconds, that lie in what is shown and promised.

    What was cut off together with its picture is the picture's loss, and told there.
    """
    begin, end = shown_seconds(evidence, sound)
    cut = [(max(first, begin), min(last, end)) for first, last in sound.gaps]
    return [(first, last) for first, last in cut if last - first >= LEAST_GAP_S]


def shown_seconds(evidence: Evidence, sound: SoundFindings) -> tuple[float, float]:
    """Return the stretch of the master that the export's picture shows, in the master's seconds."""
    survey = evidence.survey
    own = sound.master.seconds if sound.master else 0.0
    a_second = shown_rate(evidence.master)[0]
    if survey is None or not survey.master_frames or not a_second:
        return 0.0, own
    timing, frames = survey.timing, survey.master_frames
    if timing is None:
        first, last = (
            max(survey.offset, 0),
            min(survey.offset + (survey.export_frames or 0), frames),
        )
    else:
        # ends are told against the promised marks: what lies outside them is wanted by nobody
        marks = marks_of(evidence.promise, frames) or (0, frames)
        first = marks[0] + timing.trimmed_in - timing.added_in
        last = marks[1] - timing.trimmed_out + timing.added_out
    return max(float(first / a_second), 0.0), min(float(last / a_second), own)


@dataclass(frozen=True, slots=True)
class Channels:
    """How the export's channels are made of the master's.

    sources: for each of the export's, the master's that are heard in it. turned: those whose wave
    is upside down beside the others. told: whether all of that can be told.
    """

    sources: tuple[tuple[int, ...], ...]
    turned: tuple[int, ...]
    told: bool


def channels_of(mix: SoundMix) -> Channels:
    """Return which of the master's channels each of the export's carries."""
    sources, signs = [], []
    for row in mix.gains:
        strongest = max((abs(gain) for gain in row), default=0.0)
        heard = [
            at
            for at, gain in enumerate(row)
            if strongest > 0 and abs(gain) >= tolerances.CHANNEL_HEARD * strongest
        ]
        sources.append(tuple(heard))
        lead = max(heard, key=lambda at: abs(row[at]), default=None)
        signs.append(0 if lead is None else 1 if row[lead] > 0 else -1)
    upside = tuple(at for at, sign in enumerate(signs) if sign < 0)
    all_turned = len(upside) == sum(1 for sign in signs if sign)
    told = not mix.alike and max(mix.unexplained, default=1.0) <= tolerances.CHANNEL_UNTOLD
    return Channels(tuple(sources), () if all_turned else upside, told)
