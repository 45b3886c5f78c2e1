"""The work: a rehearsal or a trial in a child process, and what came of it in the database."""

import time
from contextlib import suppress
from typing import Any

from ...core.errors import CoreError
from ..library.models import Viewer
from ..library.tidying import remove_folder
from ..work.boundary import run_child
from ..work.errors import StoppedError
from ..work.models import Job
from . import services, stills, works
from .asked import request_of
from .models import Rehearsal, Trial

REHEARSE, TRY = services.REHEARSE, services.TRY


def find_rehearsal(user: Viewer, rehearsal_id: int) -> Rehearsal | None:
    """Return a rehearsal, as far as a user may see it."""
    return Rehearsal.objects.visible_to(user).filter(pk=rehearsal_id).first()


def find_trial(user: Viewer, trial_id: int) -> Rehearsal | None:
    """Return the rehearsal that a trial belongs to, as far as a user may see it."""
    return Rehearsal.objects.visible_to(user).filter(trials=trial_id).first()


def run_rehearsal(job: Job) -> None:
    """Rehearse; what is finished is kept where it is stopped, and the next try goes on from there.

    Raises CoreError, FaultError and StoppedError.
    """
    asked = Rehearsal.objects.with_context().filter(pk=job.subject_id).first()
    if asked is None:
        raise StoppedError
    started = time.monotonic()
    found = run_child(
        works.rehearse,
        progress=job.report,
        wanted=job.is_wanted,
        whole=asked.whole,
        **request_of(asked),
    )
    asked.found, asked.seconds = found, round(time.monotonic() - started, 2)
    asked.save(update_fields=["found", "seconds"])
    with suppress(CoreError, OSError):  # what cannot be drawn now is told when it is asked for
        stills.draw_ahead(asked, services.arrival_at(asked.attempt, asked.service_as_asked()))


def run_trial(job: Job) -> None:
    """Try every way of a question; as run_rehearsal."""
    asked = Trial.objects.select_related("rehearsal").filter(pk=job.subject_id).first()
    if asked is None:
        raise StoppedError
    rehearsal = Rehearsal.objects.with_context().get(pk=asked.rehearsal_id)
    started = time.monotonic()
    found = run_child(
        works.try_ways,
        progress=job.report,
        wanted=job.is_wanted,
        question=asked.question_text,
        **(request_of(rehearsal, master=True) | {"folder": str(asked.folder)}),
    )
    asked.outcomes, asked.seconds = found["outcomes"], round(time.monotonic() - started, 2)
    asked.save(update_fields=["outcomes", "seconds"])


def forget_attempt(sender: object, attempt: Any, **_: Any) -> None:
    """Remove what rehearsals of an attempt have made: it is deleted for good."""
    for one in attempt.rehearsals.all():
        remove_folder(one.folder)
