"""Attempts, their judgements, work and reports."""

from typing import Any

from django.http import FileResponse, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from ....core.errors import UsageError
from ....core.reported.survival import survival_object
from ...bench import services as bench
from ...library.access import visible_attempt
from ...reports import services as reports
from ...reports.models import KeptReport
from ...reports.views import TYPES
from ...work.models import Job
from ..schemas import AttemptOut, JobOut, ReportIn, ReportOut
from ..told import attempt_told, job_told, report_told
from .shared import REFUSALS, Number

router = Router(tags=["attempts"])


@router.get("/attempts/{attempt_id}", url_name="attempt", response={200: AttemptOut, **REFUSALS})
def attempt(request: HttpRequest, attempt_id: Number) -> Any:
    """Return one attempt: its verdict, and how its work stands."""
    return attempt_told(visible_attempt(request, attempt_id))


@router.get(
    "/attempts/{attempt_id}/judgement",
    url_name="judgement",
    response={200: dict[str, Any], **REFUSALS},
)
def judgement(request: HttpRequest, attempt_id: Number) -> Any:
    """Return the whole judgement with causes and cures, as `shapkeen compare --json` prints it."""
    found = bench.comparison_of(visible_attempt(request, attempt_id))
    if found is None:
        words = "It is not judged yet: see its job."
        raise UsageError(words, code="not-judged", where="attempt")
    return survival_object(found)


@router.post(
    "/attempts/{attempt_id}/measure", url_name="measure", response={202: JobOut, **REFUSALS}
)
def measure(request: HttpRequest, attempt_id: Number) -> Any:
    """Have an attempt measured and judged anew."""
    return 202, job_told(bench.measure(visible_attempt(request, attempt_id)))


@router.get("/jobs/{job_id}", url_name="job", response={200: JobOut, **REFUSALS})
def job(request: HttpRequest, job_id: Number) -> Any:
    """Return how one piece of work stands."""
    return job_told(get_object_or_404(Job, pk=job_id))  # the guard knows whose it is


@router.post(
    "/attempts/{attempt_id}/reports", url_name="reports", response={202: ReportOut, **REFUSALS}
)
def ask_report(request: HttpRequest, attempt_id: Number, body: ReportIn) -> Any:
    """Have a report made of an attempt."""
    found = visible_attempt(request, attempt_id)
    made = reports.ask(found.delivery.title, found, body.form, body.paper, by=request.user)
    return 202, report_told(made)


def _report(request: HttpRequest, report_id: int) -> KeptReport:
    return get_object_or_404(KeptReport.objects.visible_to(request.user), pk=report_id)


@router.get("/reports/{report_id}", url_name="report", response={200: ReportOut, **REFUSALS})
def report(request: HttpRequest, report_id: Number) -> Any:
    """Return one report."""
    return report_told(_report(request, report_id))


@router.get("/reports/{report_id}/file", url_name="report-file", response=REFUSALS)
def report_file(request: HttpRequest, report_id: Number) -> Any:
    """Return the file of a report."""
    found = _report(request, report_id)
    if not found.size_bytes or not found.path.exists():
        raise UsageError("It is not made yet: see its job.", code="not-made", where="report")
    return FileResponse(found.path.open("rb"), content_type=TYPES[found.form])
