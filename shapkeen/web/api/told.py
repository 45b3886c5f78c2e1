"""Rows as the API gives them."""

import json
from typing import Any

from ..library.models import Attempt, Delivery, Reel, Title
from ..plan.models import KeptPlan
from ..rehearsal.models import Rehearsal
from ..rehearsal.services import REHEARSE
from ..reports.models import KeptReport
from ..reports.services import WORK
from ..versions.models import KeptRecipe, MadeVersion
from ..versions.services import WORK as MAKE
from ..work.models import Job
from ..work.services import latest_jobs

Told = dict[str, Any]


def file_told(reel: Reel) -> Told:
    """Return a file."""
    return {
        "name": reel.name,
        "root": reel.root,
        "path": reel.path,
        "size_bytes": reel.size_bytes,
        "added_at": reel.added_at,
    }


def title_told(title: Title) -> Told:
    """Return a title."""
    return {
        "id": title.pk,
        "name": title.name,
        "note": title.note,
        "master": file_told(title.master),
        "created_at": title.created_at,
    }


def delivery_told(delivery: Delivery) -> Told:
    """Return a delivery."""
    return {
        "id": delivery.pk,
        "title_id": delivery.title_id,
        "name": delivery.name,
        "promise_digest": delivery.promise_digest,
    }


def job_told(job: Job | None) -> Told | None:
    """Return a job; None where there is none."""
    if job is None:
        return None
    fields = ("kind", "state", "done", "total", "seconds_left", "error")
    return {"id": job.pk, **{name: getattr(job, name) for name in fields}}


def attempts_told(attempts: list[Attempt]) -> list[Told]:
    """Return attempts with how their work stands, asked for all of them at once."""
    jobs = latest_jobs(Attempt.WORK, [one.pk for one in attempts])
    return [_attempt(one, jobs.get(one.pk)) for one in attempts]


def attempt_told(attempt: Attempt) -> Told:
    """Return one attempt."""
    return attempts_told([attempt])[0]


def _attempt(attempt: Attempt, job: Job | None) -> Told:
    judged = attempt.judged
    short = None
    if judged:
        fields = ("overall", "stage", "broken", "made_at")
        short = {name: getattr(judged, name) for name in fields}
        short["out_of_date"] = attempt.out_of_date
    return {
        "id": attempt.pk,
        "title_id": attempt.delivery.title_id,
        "delivery_id": attempt.delivery_id,
        "delivery": attempt.delivery.name,
        "number": attempt.number,
        "file": file_told(attempt.reel),
        "judged": short,
        "job": job_told(job),
    }


def report_told(report: KeptReport) -> Told:
    """Return a report."""
    job = Job.objects.latest_of(WORK, report.pk)
    told = {"id": report.pk, "form": report.form, "size_bytes": report.size_bytes}
    return {**told, "sha256": report.sha256, "job": job_told(job)}


def plan_told(kept: KeptPlan) -> Told:
    """Return a kept plan."""
    said = json.loads(kept.specification)
    return {
        "delivery_id": kept.delivery_id,
        "specification": said.get("key", ""),
        "fields": kept.fields,
        "sheet": kept.sheet,
    }


def recipe_told(kept: KeptRecipe) -> Told:
    """Return a recipe."""
    fields = ("title_id", "name", "version")
    told = {name: getattr(kept, name) for name in fields}
    return {"id": kept.pk, **told, "recipe": json.loads(kept.text)}


def version_told(version: MadeVersion) -> Told:
    """Return a version, made or being made."""
    fields = ("recipe_id", "clip", "file_name", "attempt_id", "notes")
    job = Job.objects.latest_of(MAKE, version.pk)
    told = {name: getattr(version, name) for name in fields}
    return {"id": version.pk, **told, "job": job_told(job)}


def rehearsal_told(rehearsal: Rehearsal) -> Told:
    """Return a rehearsal."""
    fields = ("attempt_id", "whole", "out_of_date", "found")
    job = Job.objects.latest_of(REHEARSE, rehearsal.pk)
    told = {name: getattr(rehearsal, name) for name in fields}
    return {"id": rehearsal.pk, "stand_in": rehearsal.key, **told, "job": job_told(job)}
