"""Versions that are asked for: what became of each, how far all are, and their order."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from ...core.cured.versions import Order, Recipe, name_of
from ...core.errors import UsageError
from ..history.services import record
from ..library.models import Title, Viewer
from ..people.rights import account_of
from ..work import services as work
from ..work.models import Job
from .models import KeptRecipe, MadeVersion
from .services import WORK, newest, order_of, put_in_order
from .words import recipe_words

STOPPED, FAILED = Job.State.STOPPED, Job.State.FAILED


@dataclass(frozen=True, slots=True)
class Pace:
    """How fast work goes on. times_real: seconds of work for a second of picture; None: unknown."""

    frames_a_second: float
    times_real: float | None


@dataclass(frozen=True, slots=True)
class Row:
    """A file that a recipe makes, as the page lists it, and its last version.

    part: the recipe, or that of one of its clips; leads: whether it is the first of its recipe.
    refusal: why it cannot be made of the master as it is now; empty where it can.
    """

    kept: KeptRecipe
    part: Recipe
    leads: bool
    words: str
    file_name: str
    refusal: str
    frames: int
    rate: float
    last: MadeVersion | None
    job: Job | None

    @property
    def is_running(self) -> bool:
        """Return whether a version of it is being made or waits to be."""
        return self.job is not None and not self.job.is_over

    @property
    def is_paused(self) -> bool:
        """Return whether it was asked for and stopped, or failed: what is finished is kept."""
        is_asked = self.last is not None and self.last.attempt_id is None
        return is_asked and self.job is not None and self.job.state in (STOPPED, FAILED)

    @property
    def is_open(self) -> bool:
        """Return whether something of it will change by itself: it is made, or being judged."""
        made = self.last is not None and self.last.attempt is not None
        return self.is_running or (made and self.last is not None and self.last.judged is None)

    @property
    def pace(self) -> Pace | None:
        """Return how fast it is being made; None before the first frames."""
        job = self.job
        if job is None or job.state != Job.State.RUNNING or not job.done:
            return None
        if job.seconds_left:
            a_second = (job.total - job.done) / job.seconds_left
        elif job.started_at and job.beat and job.beat > job.started_at:
            a_second = job.done / (job.beat - job.started_at).total_seconds()
        else:
            return None
        return Pace(a_second, self.rate / a_second if a_second and self.rate else None)


@dataclass(frozen=True, slots=True)
class Standing:
    """How far all versions are that were asked for together."""

    versions_done: int
    versions: int
    frames_done: int
    frames: int
    pace: Pace | None

    @property
    def seconds_left(self) -> float | None:
        """Return how long all of it still takes at this pace; None before the first frames."""
        if self.pace is None or not self.pace.frames_a_second:
            return None
        return (self.frames - self.frames_done) / self.pace.frames_a_second


def rows_of(title: Title) -> list[Row]:
    """Return every file of every recipe, in its newest version, with what became of it."""
    made = MadeVersion.objects.filter(recipe__title=title).select_related(
        "recipe", "attempt__judgement", "attempt__delivery"
    )
    last = {(version.recipe.name, version.clip): version for version in made.order_by("pk")}
    jobs = work.latest_jobs(WORK, [version.pk for version in last.values()])
    rows = []
    for kept in newest(title):
        for clip, part in parts_of(kept):
            version = last.get((kept.name, clip))
            job = jobs.get(version.pk) if version else None
            rows.append(_row(title, kept, clip, part, version, job))
    return rows


def parts_of(kept: KeptRecipe) -> list[tuple[str, Recipe]]:
    """Return the recipe of each file that a kept one makes, with its clip's name."""
    recipe = kept.recipe
    names = [clip.name for clip in recipe.clips] or [""]
    return list(zip(names, recipe.files, strict=True))


def _row(
    title: Title,
    kept: KeptRecipe,
    clip: str,
    part: Recipe,
    last: MadeVersion | None,
    job: Job | None,
) -> Row:
    leads = clip in ("", kept.recipe.clips[0].name if kept.recipe.clips else "")
    is_open = last is not None and last.attempt_id is None and last.recipe_id == kept.pk
    try:
        order = order_of(title, part)
    except UsageError as error:
        return Row(kept, part, leads, "", "", error.text, 0, 0.0, last, job)
    name = last.file_name if last and is_open else free_name(order)
    rate = float(order.rate)
    return Row(kept, part, leads, recipe_words(order), name, "", order.frames, rate, last, job)


def free_name(order: Order) -> str:
    """Return the name that a version's file gets: its recipe's, numbered where that is taken."""
    name = Path(name_of(order))
    number, free = 1, name.name
    while (settings.CONF.upload_dir / free).exists() or _is_taken(free):
        number += 1
        free = f"{name.stem} {number}{name.suffix}"
    return free


def _is_taken(name: str) -> bool:
    return MadeVersion.objects.filter(file_name=name).exists()


def standing_of(rows: Sequence[Row]) -> Standing | None:
    """Return how far all is that was asked for together; None where nothing is under way."""
    running = [row for row in rows if row.is_running and row.job]
    if not running:
        return None
    begun = min(row.job.created_at for row in running if row.job)
    done = [row for row in rows if _ended_since(row.job, begun)]
    paces = [pace for row in running if (pace := row.pace)]
    a_second = sum(pace.frames_a_second for pace in paces)
    rate = running[0].rate
    frames = sum(row.frames for row in done)
    return Standing(
        versions_done=len(done),
        versions=len(done) + len(running),
        frames_done=frames + sum(min(row.job.done, row.frames) for row in running if row.job),
        frames=frames + sum(row.frames for row in running),
        pace=Pace(a_second, rate / a_second if rate else None) if a_second else None,
    )


def _ended_since(job: Job | None, begun: datetime) -> bool:
    return bool(job and job.state == Job.State.DONE and job.ended_at and job.ended_at >= begun)


def ask(title: Title, chosen: Sequence[int], *, by: Viewer) -> list[Job]:
    """Have versions made by chosen recipes, in the title's order; returns the jobs.

    All are checked first: where one cannot be made, none is begun, and UsageError says why. One
    that is being made already is not begun twice.
    """
    recipes = [kept for kept in newest(title) if kept.pk in set(chosen)]
    if not recipes:
        raise UsageError("Choose at least one recipe.", code="nothing-chosen", where="recipe")
    orders = []
    for kept in recipes:
        try:
            orders += [(kept, clip, order_of(title, part)) for clip, part in parts_of(kept)]
        except UsageError as error:
            raise UsageError(
                f"{kept.name} cannot be made, so nothing was begun. {error.text}",
                code=error.code,
                where=error.where,
            ) from error
    with transaction.atomic():
        return [_begun(kept, clip, order, by) for kept, clip, order in orders]


def _begun(kept: KeptRecipe, clip: str, order: Order, by: Viewer) -> Job:
    open_ones = kept.versions.filter(attempt=None, clip=clip)
    running = Job.objects.unfinished().of(WORK, open_ones.values_list("pk", flat=True)).first()
    if running is not None:
        return running
    # One that was stopped or failed goes on: what is finished of it was kept.
    asked = open_ones.order_by("-pk").first()
    asked = asked or MadeVersion(recipe=kept, clip=clip, file_name=free_name(order))
    asked.asked_by = account_of(by)
    asked.save()
    made = {"recipe": str(kept), "file": asked.file_name}
    record("version asked for", kept.title.place, by=by, after=made)
    return work.start(WORK, asked.pk)


def _unfinished(title: Title) -> QuerySet[MadeVersion]:
    return MadeVersion.objects.filter(recipe__title=title, attempt=None)


def pause(title: Title) -> int:
    """Stop every version of a title that is made or waits; what is finished of it is kept."""
    jobs = Job.objects.unfinished().of(WORK, _unfinished(title).values_list("pk", flat=True))
    stopped = list(jobs)
    for job in stopped:
        job.ask_to_stop()
    return len(stopped)


def go_on(title: Title, *, by: Viewer) -> int:
    """Go on with every version that was stopped or failed, in the title's order."""
    paused = [row for row in rows_of(title) if row.is_paused and row.last and not row.refusal]
    with transaction.atomic():
        for row in paused:
            if row.last is not None:
                row.last.asked_by = account_of(by)
                row.last.save(update_fields=["asked_by"])
                work.start(WORK, row.last.pk)
    return len(paused)


def rearrange(title: Title, numbers: Sequence[int]) -> None:
    """Put recipes into an order, and what waits of them too: the one being made goes on."""
    put_in_order(title, numbers)
    versions = [row.last.pk for row in rows_of(title) if row.last and row.is_running]
    _requeue(versions)


def _requeue(versions: Iterable[int]) -> None:
    """Let waiting jobs be done in the order of these versions."""
    wanted = list(versions)
    with transaction.atomic():
        waiting = Job.objects.filter(state=Job.State.WAITING, cancel=False).of(WORK, wanted)
        jobs = {job.subject_id: job for job in waiting}
        in_order = [jobs[number] for number in wanted if number in jobs]
        if [job.pk for job in in_order] == sorted(job.pk for job in in_order):
            return
        # a job's number is its turn: they begin anew, behind each other
        waiting.update(state=Job.State.STOPPED, ended_at=timezone.now())
        for job in in_order:
            work.start(WORK, job.subject_id, priority=job.priority)
