"""Starting surveys."""

from django.db import transaction

from ..library.models import Attempt
from . import tasks
from .models import Job


def start_survey(attempt: Attempt) -> Job:
    """Create the attempt's job and hand it to the workers once the transaction holds."""
    job = Job.objects.create(attempt=attempt)
    transaction.on_commit(lambda: tasks.survey.enqueue(job.pk))
    return job


def begin_again(job: Job) -> None:
    """Start a job that is over from its beginning; leaves a running one alone."""
    if not job.is_over:
        return
    job.begin_again()
    transaction.on_commit(lambda: tasks.survey.enqueue(job.pk))
