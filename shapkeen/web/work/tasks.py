"""The task that a worker runs: one job from claim to end."""

import logging
from typing import Any

from django.db import OperationalError
from django_tasks import task

from ...core.errors import CoreError, InternalError
from ...core.reported.error import error_object
from .errors import FaultError, StoppedError
from .models import Job
from .room import is_out_of_room, missing_words

log = logging.getLogger(__name__)


@task()
def run_job(job_id: int) -> str:
    """Do a job and save how it ended; returns its last state."""
    job = Job.objects.filter(pk=job_id).first()
    if job is None:
        return "gone"
    if missing_words() and not job.is_over:
        return job.state  # it is queued again until there is room (services.adopt_orphans)
    if not job.claim():
        if job.cancel and not job.is_over:
            job.end(Job.State.STOPPED)
        return job.state
    try:
        job.definition.run(job)
    except StoppedError:
        job.end(Job.State.STOPPED)
    except OperationalError:
        raise  # the database is away or full: nothing can be written of it now either
    except Exception as error:  # noqa: BLE001  (every failure must end its job, whatever it is)
        _fail(job, error)
    else:
        job.end(Job.State.DONE)
    return job.state


def _fail(job: Job, error: Exception) -> None:
    """Save why a job failed: by the file, or by us; or give it back until there is room."""
    if is_out_of_room(error):
        job.let_go()
    elif isinstance(error, InternalError):
        _log_fault(job, error)
        job.end(Job.State.FAILED, {**error_object(error), "ours": True})
    elif isinstance(error, CoreError):
        job.end(Job.State.FAILED, error_object(error))
    else:
        log.error("job %s (%s) failed", job.pk, job, exc_info=error)
        job.end(Job.State.FAILED, _unforeseen(error))


def _log_fault(job: Job, error: InternalError) -> None:
    details = error.details if isinstance(error, FaultError) else ""
    log.error("job %s (%s): %s [%s]\n%s", job.pk, job, error.text, error.code, details)


def _unforeseen(error: Exception) -> dict[str, Any]:
    told = InternalError(
        f"A fault of Shapkeen ended the work ({type(error).__name__}); the file is not to blame. "
        "The log tells more.",
        code="internal",
    )
    return {**error_object(told), "ours": True}
