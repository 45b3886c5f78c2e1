"""Jobs: the truth about long work; the task queue only starts it."""

from __future__ import annotations

import time
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.db import models, transaction
from django.utils import timezone

from ...core.remaining import Remaining
from .kinds import Kind, kind_named
from .room import missing_words
from .signals import failed

WRITE_S = 0.5
"""Progress is written at most twice a second."""
SILENT_AFTER = timedelta(seconds=60)
"""A running job whose worker has not been heard of for so long has none."""


class JobQuerySet(models.QuerySet["Job"]):
    def unfinished(self) -> JobQuerySet:
        return self.filter(state__in=[Job.State.WAITING, Job.State.RUNNING])

    def of(self, kind: str, subject_ids: Iterable[int]) -> JobQuerySet:
        return self.filter(kind=kind, subject_id__in=subject_ids)

    def orphans(self) -> JobQuerySet:
        """Return running jobs whose worker has fallen silent."""
        return self.filter(state=Job.State.RUNNING, beat__lt=timezone.now() - SILENT_AFTER)

    def latest_of(self, kind: str, subject_id: int) -> Job | None:
        return self.of(kind, [subject_id]).order_by("-pk").first()


class Job(models.Model):
    """One piece of long work on one subject: where it stands, and whether it shall stop.

    done, total: in the kind's own unit. seconds_left: at the pace so far, null before the first
    step. tries: how often a worker has begun it. note: what was found so far, in words. error: as
    `shapkeen.error/1`, with `ours` where it is a fault of ours.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        STOPPED = "stopped"

    kind = models.CharField(max_length=20)
    subject_id = models.PositiveBigIntegerField()
    priority = models.SmallIntegerField(default=0)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    done = models.PositiveBigIntegerField(default=0)
    total = models.PositiveBigIntegerField(default=0)
    seconds_left = models.FloatField(null=True)
    note = models.CharField(max_length=200, blank=True)
    tries = models.PositiveIntegerField(default=0)
    cancel = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)
    beat = models.DateTimeField(null=True)
    error = models.JSONField(null=True)

    objects = JobQuerySet.as_manager()
    _written_s = 0.0
    _remaining: Remaining

    class Meta:
        indexes = [
            models.Index(fields=["kind", "subject_id"]),
            models.Index(fields=["state"]),
            models.Index(fields=["ended_at"]),
        ]
        constraints = [
            models.UniqueConstraint(
                fields=["kind", "subject_id"],
                condition=models.Q(state__in=["waiting", "running"]),
                name="one_unfinished_job_of_a_kind_and_subject",
            )
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.subject_id}: {self.state}"

    @property
    def definition(self) -> Kind:
        """Return the kind of work that this is."""
        return kind_named(self.kind)

    @property
    def is_over(self) -> bool:
        return self.state in (self.State.DONE, self.State.FAILED, self.State.STOPPED)

    @property
    def is_our_fault(self) -> bool:
        return bool(self.error and self.error.get("ours"))

    @property
    def percent(self) -> int:
        return round(100 * self.done / self.total) if self.total else 0

    @property
    def ahead(self) -> int:
        """Return how many jobs are before this one."""
        sooner = models.Q(priority__gt=self.priority) | models.Q(
            priority=self.priority, pk__lt=self.pk
        )
        return Job.objects.unfinished().filter(sooner).count()

    def claim(self) -> bool:
        """Take the job for this worker; False where another has it, it is over or shall stop."""
        free = models.Q(state=self.State.WAITING) | models.Q(
            state=self.State.RUNNING, beat__lt=timezone.now() - SILENT_AFTER
        )
        now = timezone.now()
        taken = Job.objects.filter(free, pk=self.pk, cancel=False).update(
            state=self.State.RUNNING,
            tries=models.F("tries") + 1,
            started_at=now,
            beat=now,
            ended_at=None,
            done=0,
            total=0,
            seconds_left=None,
            note="",
        )
        self._remaining = Remaining()
        self._remaining.learn(0, 0, time.monotonic())
        self.refresh_from_db()
        return bool(taken)

    def let_go(self) -> None:
        """Give a job back, to be begun again once what it lacks is there."""
        self.state, self.beat = self.State.WAITING, None
        self.save(update_fields=["state", "beat"])

    @property
    def lacking(self) -> str:
        """Return what a waiting job waits for beside a worker, in words; empty where nothing."""
        return missing_words() if self.state == self.State.WAITING else ""

    def report(self, done: int, total: int) -> bool:
        """Save progress, at most twice a second; False where the job shall stop."""
        now = time.monotonic()
        left = self._remaining.learn(done, total, now)
        if now - self._written_s < WRITE_S and done < total:
            return True
        self._written_s = now
        return self._beat(done=done, total=total, seconds_left=left)

    def tell(self, note: str) -> bool:
        """Save what was found so far; False where the job shall stop."""
        return self._beat(note=note)

    def is_wanted(self) -> bool:
        """Return whether nobody asked to stop; a heartbeat where there is no progress yet."""
        return self._beat()

    def _beat(self, **progress: float | str | None) -> bool:
        mine = Job.objects.filter(pk=self.pk, cancel=False, state=self.State.RUNNING)
        return bool(mine.update(beat=timezone.now(), **progress))

    def end(self, state: str, error: dict[str, Any] | None = None) -> None:
        """Save how the job ended."""
        self.state, self.error, self.ended_at = state, error, timezone.now()
        with transaction.atomic():
            self.save(update_fields=["state", "error", "ended_at"])
            if state == self.State.FAILED:
                failed.send(type(self), job=self)

    def ask_to_stop(self) -> None:
        """Ask a running job to stop, and end one that nobody has, or has any more."""
        now = timezone.now()
        Job.objects.unfinished().filter(pk=self.pk).update(cancel=True)
        unheld = Job.objects.filter(state=self.State.WAITING) | Job.objects.orphans()
        unheld.filter(pk=self.pk).update(state=self.State.STOPPED, ended_at=now)
        self.refresh_from_db()
