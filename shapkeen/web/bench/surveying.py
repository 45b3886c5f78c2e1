"""The work of measuring one attempt: in a child process, then kept, then judged."""

import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from ...core.measured import SURVEY_FORM, WHOLE
from ..library.models import Attempt, Viewer
from ..work.boundary import run_child
from ..work.errors import FaultError, StoppedError
from ..work.models import Job
from . import services, works
from .models import Survey, SurveySeries
from .signals import measured

LONG_SAMPLES = 40_000_000
"""Of the export: some seconds of measuring, of which a first look takes one."""
MOST_ROUNDS = 5
"""A promise that changes every time while it is being measured for is nobody's wish."""


def find_attempt(user: Viewer, attempt_id: int) -> Attempt | None:
    """Return an attempt as far as a user may see it."""
    return Attempt.objects.visible_to(user).with_context().filter(pk=attempt_id).first()


def find_attempts(user: Viewer, numbers: Iterable[int]) -> dict[int, Attempt]:
    """Return number → attempt with its names, of those that a user may see."""
    return Attempt.objects.visible_to(user).named().in_bulk(list(numbers))


def run_survey(job: Job) -> None:
    """Measure an attempt and judge it by the promise as it stands when that is done.

    Raises CoreError, FaultError and StoppedError. Where the promise moved meanwhile to something
    that was not measured, that is measured too.
    """
    for _ in range(MOST_ROUNDS):
        attempt = Attempt.objects.with_context().filter(pk=job.subject_id).first()
        if attempt is None:
            raise StoppedError
        if is_long(attempt) and services.fitting_survey(attempt) is None:
            _measure(job, attempt, quick=True)
            services.judge(Attempt.objects.with_context().get(pk=attempt.pk))
        _measure(job, attempt)
        attempt = Attempt.objects.with_context().get(pk=attempt.pk)
        judged = services.judge(attempt)
        if judged is not None and judged.stage == WHOLE:
            Survey.objects.first_looks(attempt).delete()
            measured.send_robust(sender=run_survey, attempt=attempt)
            return
    raise FaultError(
        f"The promise, or a file, changed {MOST_ROUNDS} times while it was being measured. Measure "
        "again when it has settled.",
        code="never-settled",
    )


def is_long(attempt: Attempt) -> bool:
    """Return whether measuring every frame takes so long that a first look is worth its seconds."""
    declared = attempt.reel.declaration
    said = declared["witnesses"]["stream"].get("raster") or [0, 0]
    frames = declared["video"].get("frame_count") or 0
    return bool(frames * said[0] * said[1] > LONG_SAMPLES)


def _measure(job: Job, attempt: Attempt, *, quick: bool = False) -> None:
    """Measure an attempt and keep what was found. quick: only a first look."""
    conf, delivery = settings.CONF, attempt.delivery
    conf.work_dir.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=conf.work_dir, prefix="survey-") as folder:
        found = run_child(
            works.survey,
            progress=job.report,
            part=lambda worst: job.tell(
                f"Least like its master so far: frame {worst['frame']} of the export, "
                f"SSIM {worst['ssim']:.3f}."
            ),
            wanted=job.is_wanted,
            master=str(delivery.title.master.locate()),
            export=str(attempt.reel.locate()),
            promises=delivery.promise_layers(),
            frames=conf.survey_frames,
            workers=conf.survey_workers,
            folder=str(conf.span_dir),
            goal=folder,
            quick=quick,
        )
        _keep(attempt, found, Path(folder))


def _keep(attempt: Attempt, found: dict[str, Any], folder: Path) -> None:
    """Save a survey; where a file was replaced since it was read, what it declares now too."""
    reels = attempt.delivery.title.master, attempt.reel
    master, export = found["states"]
    looks = folder / works.LOOKS
    values = {
        "form": SURVEY_FORM,
        "frames": settings.CONF.survey_frames,
        "master": reels[0],
        "master_path": master["path"],
        "master_size": master["size_bytes"],
        "master_changed_ns": master["changed_ns"],
        "master_declaration": (folder / works.MASTER).read_bytes(),
        "export": reels[1],
        "export_path": export["path"],
        "export_size": export["size_bytes"],
        "export_changed_ns": export["changed_ns"],
        "export_declaration": (folder / works.EXPORT).read_bytes(),
        "findings": (folder / works.FINDINGS).read_bytes(),
        "looks": looks.read_bytes() if looks.exists() else b"",
        "read_s": found["read_s"],
        "stage": found["stage"],
    }
    series = {
        "drawn": (folder / works.DRAWN).read_bytes(),
        "rows": (folder / works.SERIES).read_bytes(),
    }
    # Nothing is read or computed while the lock is held: a worker gives way to pages, and those
    # that have to write would wait for it.
    with transaction.atomic():
        _take_over(attempt, found)
        survey, _ = Survey.objects.update_or_create(key=found["key"], defaults=values)
        SurveySeries.objects.update_or_create(survey=survey, defaults=series)
        _forget_earlier(attempt)


def _take_over(attempt: Attempt, found: dict[str, Any]) -> None:
    """Save what replaced files declare, and what all deliveries promise since, if one was."""
    reels = attempt.delivery.title.master, attempt.reel
    replaced = False
    for reel, state, declared in zip(reels, found["states"], found["declarations"], strict=True):
        if (state["size_bytes"], state["changed_ns"]) != reel.state:
            reel.take_over(state["size_bytes"], state["changed_ns"], declared)
            replaced = True
    if replaced:
        for delivery in attempt.delivery.title.deliveries.select_related("title__master"):
            delivery.refresh_digest()


def _forget_earlier(attempt: Attempt) -> None:
    """Remove surveys of earlier states of both files, but those a judgement rests on."""
    present = Survey.objects.of_present_files(attempt).values("pk")
    earlier = Survey.objects.filter(
        master=attempt.delivery.title.master, export=attempt.reel, judgements=None
    )
    earlier.exclude(pk__in=present).delete()
