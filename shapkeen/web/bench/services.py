"""Judging attempts: at once where a kept survey suffices, else once it has been measured."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ...core.compared import judge_survey, survey_key
from ...core.errors import UsageError
from ...core.judged import Comparison, read_pair_by
from ...core.measured import FIRST_LOOK, WHOLE, AloneFindings, FileSurvey
from ...core.promised import promise_from_master
from ...core.reported.bench import DeclaredStage, declared_stage
from ...core.reported.declared import declaration_from_object
from ...core.reported.received import Received, received_traits
from ..history.services import record
from ..library.models import Attempt, Delivery, Reel
from ..work import services as work
from ..work.kinds import MOST_TURNS, USUAL
from ..work.models import Job
from . import recent
from .models import Judgement, Survey, SurveySeries

JUDGED_AT_ONCE = 12
"""A survey is judged in some 50 ms; what lies longer ago is judged when it is looked at."""


PRESENT = object()
"""In place of a promise: the delivery's own."""


def fitting_survey(attempt: Attempt, overrides: Any = PRESENT) -> Survey | None:
    """Return the kept survey that judging by a promise needs; None where there is none.

    Of every frame, else a first look. overrides: the present promise unless given.

    Raises UsageError where the master cannot keep the promise.
    """
    kept = list(Survey.objects.of_present_files(attempt).defer("findings"))
    if not kept:
        return None
    master, export = kept[0].declarations()
    wanted = attempt.delivery.overrides() if overrides is PRESENT else overrides
    promise = promise_from_master(master, overrides=wanted)
    reading = read_pair_by(promise, master, export)
    states, frames = kept[0].states(), kept[0].frames
    keys = [survey_key(*states, reading, frames=frames, stage=one) for one in (WHOLE, FIRST_LOOK)]
    by_key = {one.key: one for one in kept}
    return next((by_key[key] for key in keys if key in by_key), None)


def judge(attempt: Attempt) -> Judgement | None:
    """Judge an attempt by its delivery's present promise; None where that was never measured.

    No file is touched.
    """
    survey = fitting_survey(attempt)
    if survey is None:
        return None
    comparison = judge_survey(
        *survey.declarations(),
        survey.survey(),
        overrides=attempt.delivery.overrides(),
        read_s=survey.read_s,
    )
    # A promise that was saved meanwhile has its own digest: this judgement is out of date then.
    before = _told(attempt.judged)
    made = Judgement.record(attempt, survey, comparison, comparison.survey.stage)
    if _told(made) != before:
        record("judged", attempt.place, by=None, before=before, after=_told(made))
    return made


def _told(judged: Judgement | None) -> dict[str, Any] | None:
    """Return a judgement as the history holds it."""
    if judged is None:
        return None
    return {
        "overall": judged.overall,
        "broken": list(judged.broken),
        "promise": judged.promise_digest[:12],
        "stage": judged.stage,
    }


def measure(attempt: Attempt, *, priority: int | None = None) -> Job:
    """Have an attempt measured and judged; returns the job, which may be under way already.

    priority: among those that wait; the usual one if None.
    """
    wanted = _turn_of(attempt, USUAL if priority is None else priority)
    return work.start(Attempt.WORK, attempt.pk, priority=wanted)


def _turn_of(attempt: Attempt, priority: int) -> int:
    """Return a priority lowered by how many of the same title wait already.

    So titles have turns: the first export of each comes before the second of any.
    """
    others = Attempt.objects.filter(delivery__title=attempt.delivery.title_id).values("pk")
    band = (priority - MOST_TURNS, priority)
    waiting = Job.objects.filter(state=Job.State.WAITING, priority__range=band)
    waiting = waiting.filter(kind=Attempt.WORK, subject_id__in=others)
    return priority - min(waiting.count(), MOST_TURNS)


def judge_or_measure(attempt: Attempt) -> Judgement | Job:
    """Judge an attempt at once if that can be, else have it measured."""
    try:
        judged = judge(attempt)
    except UsageError:
        judged = None  # measuring ends in that error, on the page
    return judged if judged is not None and judged.stage == WHOLE else measure(attempt)


def measure_added(
    sender: object, attempt: Attempt, *, priority: int | None = None, **_: Any
) -> None:
    """Measure an attempt that was added."""
    measure(attempt, priority=priority)


def judge_changed(sender: object, delivery: Delivery, **_: Any) -> None:
    """Judge a delivery's attempts by its new promise; the latest is measured if it must be."""
    attempts = list(delivery.attempts.with_context().order_by("-number")[:JUDGED_AT_ONCE])
    for attempt in attempts[:1]:
        judge_or_measure(attempt)
    for attempt in attempts[1:]:
        judge_if_kept(attempt)


def judge_if_kept(attempt: Attempt) -> Judgement | None:
    """Judge an attempt anew where a kept survey suffices; otherwise leave it out of date."""
    try:
        return judge(attempt)
    except UsageError:
        return None


def freshened(attempt: Attempt) -> Judgement | None:
    """Return the attempt's judgement, made anew if it is out of date and a survey suffices."""
    judged: Judgement | None = attempt.judged
    if judged is None or attempt.out_of_date:
        judged = judge_if_kept(attempt) or judged
        if judged is not None:
            attempt.judgement = judged
    return judged


def declared_stage_of(attempt: Attempt) -> DeclaredStage | None:
    """Return what the headers of an attempt's files decide alone; None where they cannot tell."""
    try:
        files = [attempt.delivery.title.master.declaration, attempt.reel.declaration]
        master, export = (declaration_from_object(one) for one in files)
        return declared_stage(attempt.delivery.effective_promise(), master, export)
    except UsageError:
        return None


def comparison_of(attempt: Attempt) -> Comparison | None:
    """Return all that pages show of an attempt; None before it was judged, or in another form."""
    return _read(recent.comparison, attempt)


def _read(read: Callable[[int, datetime, int], Comparison], attempt: Attempt) -> Comparison | None:
    judged = freshened(attempt)
    if judged is None:
        return None
    try:
        return read(judged.pk, judged.made_at, judged.form)
    except ValueError:
        return None
    except Judgement.DoesNotExist:  # judged anew a moment ago
        attempt.refresh_from_db()
        return _read(read, attempt)


@dataclass(frozen=True, slots=True)
class Rehearsed:
    """The newest rehearsal that a service took the file in: the thread map's last station."""

    service: str
    address: str
    traits: dict[str, Received]


def rehearsed_of(attempt: Attempt) -> Rehearsed | None:
    """Return what an attempt's newest rehearsal came to; None without one, or where it is old."""
    for one in attempt.rehearsals.exclude(found={}):
        traits = received_traits(one.found)
        if traits is not None and not one.out_of_date:
            return Rehearsed(one.service, one.get_absolute_url(), traits)
    return None


def drawn_comparison_of(attempt: Attempt) -> Comparison | None:
    """Return as comparison_of, with the likeness of every frame as far as drawings want it."""
    return _read(recent.drawn, attempt)


@dataclass(frozen=True, slots=True)
class FileShows:
    """What a file shows: in every frame, and some frames by themselves; None = not measured."""

    whole: FileSurvey | None = None
    look: AloneFindings | None = None


def file_shows(reel: Reel) -> FileShows:
    """Return what a file shows, where a survey of its present state has it."""
    state = {"export_size": reel.size_bytes, "export_changed_ns": reel.changed_ns}
    as_export = reel.surveys_as_export.filter(**state).order_by("-pk").first()
    state = {"master_size": reel.size_bytes, "master_changed_ns": reel.changed_ns}
    as_master = reel.surveys_as_master.filter(**state).order_by("-pk").first()
    try:
        if as_export is not None:
            return FileShows(as_export.survey().export_statistics, as_export.look(1))
        if as_master is not None:
            return FileShows(as_master.survey().master_statistics, as_master.look(0))
    except ValueError:
        pass
    return FileShows()


def frame_pairs(attempt: Attempt) -> list[tuple[int, int]]:
    """Return every compared pair of frames, master and export; else the sampled ones."""
    judged: Judgement = attempt.judged
    series = SurveySeries.objects.filter(survey_id=judged.survey_id).defer("drawn").first()
    rows = series.frames() if series else ()
    pairs = rows or judged.survey.survey().pairs
    return [(row.master_frame, row.export_frame) for row in pairs]
