"""Jobs: the truth about long work; the task queue only starts it."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.utils import timezone

from ..library.models import Attempt

MOST_TRIES = 3
"""A file that brings down its child process three times is at fault itself."""


class JobQuerySet(models.QuerySet["Job"]):
    def unfinished(self) -> JobQuerySet:
        return self.filter(state__in=[Job.State.WAITING, Job.State.RUNNING])


class Job(models.Model):
    """One survey: where it stands, and whether someone asked it to stop."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        STOPPED = "stopped"

    attempt = models.OneToOneField(Attempt, on_delete=models.CASCADE, related_name="job")
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    tries = models.PositiveIntegerField(default=0)
    cancel = models.BooleanField(default=False)
    started_at = models.DateTimeField(null=True)
    beat = models.DateTimeField(null=True)
    error = models.JSONField(null=True)

    objects = JobQuerySet.as_manager()

    def __str__(self) -> str:
        return f"survey of {self.attempt}: {self.state}"

    @property
    def is_over(self) -> bool:
        return self.state in (self.State.DONE, self.State.FAILED, self.State.STOPPED)

    @property
    def percent(self) -> int:
        return round(100 * self.done / self.total) if self.total else 0

    @property
    def seconds_left(self) -> int | None:
        """Return the remaining time at the pace so far, None before the first frame."""
        if not self.done or not self.started_at:
            return None
        spent = (timezone.now() - self.started_at).total_seconds()
        return max(round(spent / self.done * (self.total - self.done)), 0)

    def claim(self) -> bool:
        """Take the job for this worker; False where it is over or was stopped meanwhile."""
        taken = (
            Job.objects.unfinished()
            .filter(pk=self.pk, cancel=False)
            .update(
                state=self.State.RUNNING,
                tries=models.F("tries") + 1,
                started_at=timezone.now(),
                beat=timezone.now(),
                done=0,
                total=0,
            )
        )
        self.refresh_from_db()
        return bool(taken)

    def report(self, done: int, total: int) -> bool:
        """Save progress; False where the job shall stop. Serves as heartbeat too."""
        return bool(
            Job.objects.filter(pk=self.pk, cancel=False, state=self.State.RUNNING).update(
                done=done, total=total, beat=timezone.now()
            )
        )

    def is_wanted(self) -> bool:
        """Return whether nobody asked to stop; a heartbeat where there is no progress yet."""
        mine = Job.objects.filter(pk=self.pk, cancel=False, state=self.State.RUNNING)
        return bool(mine.update(beat=timezone.now()))

    def end(self, state: str, error: dict[str, Any] | None = None) -> None:
        """Save how the job ended."""
        self.state, self.error = state, error
        self.save(update_fields=["state", "error"])

    def ask_to_stop(self) -> None:
        """Ask a running job to stop, and end one that nobody has taken yet."""
        Job.objects.filter(pk=self.pk).update(cancel=True)
        Job.objects.filter(pk=self.pk, state=self.State.WAITING).update(state=self.State.STOPPED)
        self.refresh_from_db()

    def begin_again(self) -> None:
        """Put the job back to its start."""
        self.state, self.cancel, self.tries, self.error = self.State.WAITING, False, 0, None
        self.done = self.total = 0
        self.save(update_fields=["state", "cancel", "tries", "error", "done", "total"])
