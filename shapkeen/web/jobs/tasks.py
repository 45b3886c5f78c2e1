"""The task that a worker runs: one survey from claim to result."""

from django.db import transaction
from django_tasks import task

from ...core.errors import CoreError
from ...core.reported.error import error_object
from ..config.conf import Conf
from .models import MOST_TRIES, Job
from .sandbox import ChildDiedError, StoppedError, run_child
from .signals import surveyed

CRASHED = {
    "code": "decoder-crashed",
    "text": (
        "Decoding this file brought the decoder down each time it was tried. The file is damaged: "
        "export it again."
    ),
    "where": "",
}


@task()
def survey(job_id: int) -> str:
    """Survey an attempt and save the outcome; returns the job's last state."""
    job = Job.objects.select_related("attempt__delivery__title__master", "attempt__reel").get(
        pk=job_id
    )
    if not job.claim():
        if job.cancel and not job.is_over:
            job.end(Job.State.STOPPED)
        return job.state
    return _run(job)


def _run(job: Job) -> str:
    from django.conf import settings

    conf: Conf = settings.CONF
    attempt = job.attempt
    delivery = attempt.delivery
    try:
        found = run_child(
            "compare",
            progress=job.report,
            wanted=job.is_wanted,
            master=str(delivery.title.master.locate()),
            export=str(attempt.reel.locate()),
            promise=delivery.promise_text,
            origin=f"delivery {delivery.name}",
            frames=conf.survey_frames,
            workers=conf.survey_workers,
            folder=str(conf.span_dir),
        )
    except StoppedError:
        job.end(Job.State.STOPPED)
    except ChildDiedError:
        if job.tries < MOST_TRIES:
            return _run(job) if job.claim() else job.state
        job.end(Job.State.FAILED, CRASHED)
    except CoreError as error:
        job.end(Job.State.FAILED, error_object(error))
    else:
        with transaction.atomic():
            attempt.record_comparison(found["record"], found["overall"], found["tally"])
            job.end(Job.State.DONE)
        surveyed.send_robust(sender=survey, attempt=attempt)
    return job.state
