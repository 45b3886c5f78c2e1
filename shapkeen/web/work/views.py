"""Progress, stop and begin again, of any kind of work."""

from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from . import services
from .models import Job


def _found(request: HttpRequest, job_id: int) -> tuple[Job, Any]:
    """Return a job and its subject; answers 404 where the user may not see that."""
    job = get_object_or_404(Job, pk=job_id)
    subject = job.definition.find(request.user, job.subject_id)
    if subject is None:
        raise Http404
    return job, subject


@login_not_required
@require_GET
def alive(request: HttpRequest) -> HttpResponse:
    """Say that the server answers."""
    return HttpResponse(status=204)


@require_GET
def progress(request: HttpRequest, job_id: int) -> HttpResponse:
    """Show where the work stands; when it is over, have the page loaded anew."""
    job, subject = _found(request, job_id)
    if not request.htmx:  # type: ignore[attr-defined]  # set by the htmx middleware
        return redirect(subject)
    response = render(request, "work/_progress.html", {"job": job})
    if job.is_over:
        response["HX-Refresh"] = "true"
    return response


@require_POST
def stop(request: HttpRequest, job_id: int) -> HttpResponse:
    """Ask the work to stop."""
    job, subject = _found(request, job_id)
    job.ask_to_stop()
    return redirect(subject)


@require_POST
def again(request: HttpRequest, job_id: int) -> HttpResponse:
    """Do the work once more; a running one goes on."""
    job, subject = _found(request, job_id)
    services.start(job.kind, job.subject_id)
    return redirect(subject)
