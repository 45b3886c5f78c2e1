"""Whether every frame is surely held against its own of the master."""

import math
from collections.abc import Mapping
from dataclasses import replace

from ..colour.codepoints import HDR_TRANSFERS
from ..declared import Declaration
from ..measured import (
    Damage,
    FoldFindings,
    PairSurvey,
    Registration,
    StereoFindings,
    TimeEvent,
    TimeFindings,
    ToneFindings,
)
from ..promised import Promise, stated_by
from . import tolerances
from .evidence import Evidence, shown_rate
from .folding import looks_folded


def is_frame_for_frame(evidence: Evidence) -> bool:
    """Return whether one frame of the export stands for one of the master, at any rate."""
    survey = evidence.survey
    counts = (survey.master_frames, survey.export_frames) if survey else (None, None)
    rates = shown_rate(evidence.master)[0], shown_rate(evidence.export)[0]
    if rates[0] == rates[1] or None in counts:
        return True
    return abs((counts[0] or 0) - (counts[1] or 0)) <= tolerances.SAME_COUNT_FRAMES


def is_surely_paired(evidence: Evidence) -> bool:
    """Return whether every frame is held against its own: of another, a pan lies elsewhere."""
    timing = evidence.survey.timing if evidence.survey else None
    return timing is not None and is_frame_for_frame(evidence) and not timing.has_events


def look_exchanged(found: StereoFindings) -> bool:
    """Return whether each eye lies clearly nearer to the master's other eye than to its own, though
    neither was found again for certain: both are soft, say, or all but alike."""
    shifts = [one for moment in found.moments for one in moment.shifts or ()]
    nearer = [1 - one.likeness > tolerances.EYE_NEARER * (1 - one.other) for one in shifts]
    return bool(nearer) and all(nearer) and not found.sure


def is_out_of_step(evidence: Evidence, place: Registration) -> bool:
    """Return whether frames may be held against their neighbours: their places differ, and counts.

    A frame held once in a slow pan shows as one more at the end, and in half of the frames the
    picture lies elsewhere. Rough coding alone moves places, too, but adds no frame.
    """
    timing = evidence.survey.timing if evidence.survey else None
    if place.spread <= tolerances.PLACE_SPREAD:
        return False
    return timing is None or timing.has_events or timing.has_other_ends or timing.foreign > 0


def with_sure_fold(survey: PairSurvey, export: Declaration) -> PairSurvey:
    """Return a survey without a fold into SDR that the picture does not surely show."""
    fold, stated = survey.fold, stated_by(export, "transfer")
    hdr = stated is not None and stated[1].value in HDR_TRANSFERS
    if fold is None or fold.promised:
        return survey
    if not _is_nearest(fold, survey, stated_sdr=stated is not None and not hdr):
        return replace(survey, fold=None)
    # Stated as HDR, what one act on tone explains was not folded, however its colours look.
    if looks_folded(fold, stated_hdr=hdr) and not (hdr and _has_lone_act(survey.tone)):
        return survey
    return replace(survey, fold=None)


def _is_nearest(fold: FoldFindings, survey: PairSurvey, *, stated_sdr: bool) -> bool:
    """Return whether no act in HDR explains a picture, or, called SDR, none as well as the fold."""
    # Of too few tones no act is told, though the curve of a fold may be there.
    left = survey.acts[0].residual if survey.acts else math.inf
    return left > tolerances.EXPLAINED_CODES or (
        stated_sdr and left > tolerances.FOLD_CLOSER * fold.scatter
    )


def _has_lone_act(tone: ToneFindings | None) -> bool:
    """Return whether one act on luma explains its tones, and no act does not."""
    if tone is None or tone.fits[0].act == "identity":
        return False
    best, identity = tone.fits[0].residual, tone.residual("identity")
    return best <= tolerances.EXPLAINED_CODES / 2 and identity > 2 * tolerances.CLEAR_WIN * best


def marks_of(promise: Promise, frames: int | None) -> tuple[int, int] | None:
    """Return the first promised frame of the master and the one after the last.

    frames: the master's. None where all of them are promised, or nobody knows how many there are.
    """
    value = promise.value("frames")
    if not isinstance(value, Mapping) or frames is None:
        return None
    return int(str(value["in"])), min(int(str(value["out"])), frames)


def within_marks(survey: PairSurvey, promise: Promise) -> PairSurvey:
    """Return a survey whose ends are told against the frames that are promised."""
    marks, timing = marks_of(promise, survey.master_frames), survey.timing
    if marks is None or timing is None or survey.master_frames is None:
        return survey
    start = timing.trimmed_in - marks[0]
    end = timing.trimmed_out - (survey.master_frames - marks[1])
    told = replace(
        timing,
        trimmed_in=max(start, 0),
        added_in=timing.added_in + max(-start, 0),
        trimmed_out=max(end, 0),
        added_out=timing.added_out + max(-end, 0),
    )
    return replace(survey, timing=told)


def without_damage(survey: PairSurvey) -> PairSurvey:
    """Return a survey whose frames are told only where neither file is broken.

    A guessed picture is like another one than its own: that says nothing of which frame it is.
    """
    broken = survey.master_statistics.damage, survey.export_statistics.damage
    timing = survey.timing
    if timing is None or not any(one.stretches for one in broken):
        return survey
    return replace(survey, timing=_outside(timing, *broken))


def _outside(timing: TimeFindings, master: Damage, export: Damage) -> TimeFindings:
    guessed = sum(last - first + 1 for one in (master, export) for first, last in one.stretches)
    mostly = guessed > timing.matched  # among so many guesses frames are matched by chance

    def is_whole(event: TimeEvent) -> bool:
        there = range(event.master_frame - 1, event.master_frame + event.count + 1)
        here = range(event.export_frame - 1, event.export_frame + event.count + 1)
        hidden = any(map(master.covers, there)) or any(map(export.covers, here))
        return not (mostly or hidden)

    def is_guessed(number: int) -> bool:
        here, there = min(timing.way, key=lambda place: abs(place[0] - number), default=(0, 0))
        return export.covers(number) or master.covers(number + there - here)

    def is_broken(end: tuple[int, int]) -> bool:
        return any(export.covers(end[0] + by) or master.covers(end[1] + by) for by in (-1, 0, 1))

    starts, ends = (is_broken(timing.way[at]) if timing.way else False for at in (0, -1))
    return replace(
        timing,
        dropped=tuple(filter(is_whole, timing.dropped)),
        repeated=tuple(filter(is_whole, timing.repeated)),
        blended=tuple(number for number in timing.blended if not is_guessed(number)),
        foreign=timing.foreign if timing.foreign > guessed else 0,
        trimmed_in=0 if starts else timing.trimmed_in,
        added_in=0 if starts else timing.added_in,
        trimmed_out=0 if ends else timing.trimmed_out,
        added_out=0 if ends else timing.added_out,
    )
