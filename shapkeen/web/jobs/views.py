"""Progress, stop and begin again."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from ..library.access import visible_attempt
from . import services


@require_GET
def progress(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show where the survey stands; when it is over, have the page loaded anew."""
    attempt = visible_attempt(request, attempt_id)
    if not request.htmx:  # type: ignore[attr-defined]  # set by the htmx middleware
        return redirect(attempt)
    response = render(request, "jobs/_progress.html", {"attempt": attempt, "job": attempt.job})
    if attempt.job.is_over:
        response["HX-Refresh"] = "true"
    return response


@require_POST
def stop(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Ask the survey to stop."""
    attempt = visible_attempt(request, attempt_id)
    attempt.job.ask_to_stop()
    return redirect(attempt)


@require_POST
def again(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Measure once more."""
    attempt = visible_attempt(request, attempt_id)
    services.begin_again(attempt.job)
    return redirect(attempt)
