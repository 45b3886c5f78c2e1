"""The sound of a pair beside its picture."""

from ..model import PairSurvey, SoundFindings, Source
from ..sound.finding import PictureClock
from ..sound.pair import find_sound

FIRST_LOOK_S = 60.0
STILL = 0.5
"""Of frames like their neighbours: then which one is shown when is a guess."""


def sound_of(
    survey: PairSurvey, master: Source, export: Source, ratio: float, *, quick: bool
) -> SoundFindings | None:
    """Return what the sound shows, held against when the survey found the picture to be shown.

    ratio: frames of the master that pass with one of the export. quick: the beginning alone.
    """
    most_s = FIRST_LOOK_S if quick else None
    clock = clock_of(survey, float(master.reading.rate), float(export.reading.rate), ratio)
    return find_sound(master.path, export.path, clock, most_s=most_s)


def clock_of(
    survey: PairSurvey, master_rate: float, export_rate: float, ratio: float
) -> PictureClock:
    """Return when the master's moments are shown, by frames a second of both."""
    timing = survey.timing
    way = timing.way if timing and timing.still_share <= STILL else ()
    if not way:
        way = ((0, survey.offset),)
    shown = sorted((there / master_rate, here / export_rate) for here, there in way)
    return PictureClock(speed=ratio * export_rate / master_rate, way=tuple(shown))
