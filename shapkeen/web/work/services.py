"""Starting work, taking it up again, and finding what nobody does any more."""

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from django.db import IntegrityError, models, transaction
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from . import tasks
from .kinds import kind_named
from .models import SILENT_AFTER, Job


def start(kind: str, subject_id: int, *, priority: int | None = None) -> Job:
    """Return the job of a kind on a subject, made and queued unless one is under way already.

    priority: the kind's if None.
    """
    running = Job.objects.unfinished().of(kind, [subject_id]).first()
    if running is not None:
        return running
    try:
        with transaction.atomic():
            job = Job.objects.create(
                kind=kind,
                subject_id=subject_id,
                priority=kind_named(kind).priority if priority is None else priority,
            )
    except IntegrityError:  # another request was quicker
        return Job.objects.unfinished().of(kind, [subject_id]).get()
    _queue(job)
    return job


def hurry(job: Job, priority: int) -> None:
    """Give a job that waits a higher priority: somebody waits for it now."""
    if job.state != Job.State.WAITING or job.priority >= priority:
        return
    with transaction.atomic():
        Job.objects.filter(pk=job.pk).update(priority=priority)
        for row in DBTaskResult.objects.filter(status="READY", priority__lt=priority):
            if _jobs_of([row]) == {job.pk}:
                DBTaskResult.objects.filter(pk=row.pk, status="READY").update(priority=priority)
    job.priority = priority


def _queue(job: Job) -> None:
    transaction.on_commit(lambda: _enqueue(job))


def _enqueue(job: Job) -> None:
    tasks.run_job.using(priority=job.priority).enqueue(job.pk)


def latest_jobs(kind: str, subject_ids: Iterable[int]) -> dict[int, Job]:
    """Return the latest job of each subject that has one."""
    return {job.subject_id: job for job in Job.objects.of(kind, subject_ids).order_by("pk")}


def subjects_of(user: Any, jobs: Iterable[Job]) -> dict[int, Any]:
    """Return job → what it is about, of what a user may see; each kind asks once for all of it."""
    by_kind: defaultdict[str, list[Job]] = defaultdict(list)
    for job in jobs:
        by_kind[job.kind].append(job)
    subjects: dict[int, Any] = {}
    for kind, some in by_kind.items():
        found = kind_named(kind).found(user, {job.subject_id for job in some})
        subjects |= {job.pk: found[job.subject_id] for job in some if job.subject_id in found}
    return subjects


def adopt_orphans() -> int:
    """Queue every unfinished job that no worker has and no queue holds; return how many.

    So it is with jobs whose row was written when the queue could not be, and those of workers that
    are gone.
    """
    # A task that runs holds a job only at first: until it claims it, or is silent for too long.
    # Its worker may be gone, on a machine of another name, with nobody to give the task back.
    fresh = models.Q(status="RUNNING", started_at__gt=timezone.now() - SILENT_AFTER)
    held = _jobs_of(DBTaskResult.objects.filter(fresh | models.Q(status="READY")))
    unfinished = Job.objects.filter(state=Job.State.WAITING) | Job.objects.orphans()
    lone = [job for job in unfinished.order_by("pk") if job.pk not in held]
    for job in lone:
        _enqueue(job)
    return len(lone)


def give_back(prefix: str) -> int:
    """Give back tasks, with their jobs, whose worker is gone: its id begins so. Returns how many.

    Without its job, whoever took the task would find it held until its worker is silent for long.
    """
    running = DBTaskResult.objects.filter(status="RUNNING")
    given = [
        row
        for row in running
        if row.worker_ids
        and row.worker_ids[-1].startswith(prefix)
        and running.filter(pk=row.pk, worker_ids=row.worker_ids).update(
            status="READY", started_at=None
        )
    ]
    _free(Job.objects.filter(pk__in=_jobs_of(given) - _jobs_of(running.all())))
    return len(given)


def _jobs_of(rows: Iterable["DBTaskResult[Any, Any]"]) -> set[int]:
    """Return the numbers of the jobs that tasks are for."""
    ours = (row for row in rows if row.task_path == tasks.run_job.module_path)
    return {row.args_kwargs["args"][0] for row in ours if row.args_kwargs["args"]}


def free_all() -> None:
    """Let go of every running job: for the start, when no worker is alive."""
    _free(Job.objects.all())


def _free(jobs: models.QuerySet[Job]) -> None:
    jobs.filter(state=Job.State.RUNNING).update(state=Job.State.WAITING, beat=None)
