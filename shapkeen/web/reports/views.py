"""Reports: asked for, waited for, handed out."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from ..library.access import visible_attempt
from ..library.models import Attempt, Title
from ..work.models import Job
from . import services
from .forms import ReportForm
from .models import KeptReport

TYPES = {
    "html": "text/html; charset=utf-8",
    "pdf": "application/pdf",
    "json": "application/json",
    "csv": "text/csv; charset=utf-8",
}
SEALED = "sandbox; default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'"
"""For a report that is looked at here: it may do nothing; its own policy is stricter still."""


@require_http_methods(["GET", "POST"])
def ask(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show an attempt's reports, and have one made."""
    attempt = visible_attempt(request, attempt_id)
    return _ask(request, attempt.delivery.title, attempt)


@require_http_methods(["GET", "POST"])
def ask_title(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show a title's reports over all its deliveries, and have one made."""
    title = get_object_or_404(Title.objects.visible_to(request.user), pk=title_id)
    return _ask(request, title, None)


def _ask(request: HttpRequest, title: Title, attempt: Attempt | None) -> HttpResponse:
    form = ReportForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        made = services.ask(title, attempt, *form.form_and_paper(), by=request.user)
        return redirect(made)
    kept = KeptReport.objects.filter(title=title, attempt=attempt).select_related("asked_by")
    context = {"title": title, "attempt": attempt, "form": form, "kept": kept, "place": "report"}
    status = 422 if request.method == "POST" else 200
    return render(request, "reports/ask.html", context, status=status)


def _found(request: HttpRequest, report_id: int) -> KeptReport:
    visible = KeptReport.objects.visible_to(request.user)
    related = "attempt__delivery__title__master", "attempt__reel", "title"
    return get_object_or_404(visible.select_related(*related), pk=report_id)


@require_GET
def report(request: HttpRequest, report_id: int) -> HttpResponse:
    """Show one report: being made, or to be taken."""
    kept = _found(request, report_id)
    job = Job.objects.latest_of(services.WORK, kept.pk)
    context = {
        "kept": kept,
        "attempt": kept.attempt,
        "title": kept.title,
        "job": None if kept.size_bytes else job,
        "place": "report",
    }
    return render(request, "reports/report.html", context)


@require_GET
def file(request: HttpRequest, report_id: int) -> HttpResponse | FileResponse:
    """Send a report's file; ?show shows an HTML or PDF one in the browser."""
    kept = _found(request, report_id)
    if not kept.size_bytes or not kept.path.exists():
        raise Http404
    shows = "show" in request.GET and kept.form in ("html", "pdf")
    answer = FileResponse(
        kept.path.open("rb"),
        content_type=TYPES[kept.form],
        as_attachment=not shows,
        filename=kept.file_name,
    )
    answer._csp_exempt = True  # type: ignore[attr-defined]  # the pages' own would not hold for it
    answer["Content-Security-Policy"] = SEALED
    answer["X-Content-Type-Options"] = "nosniff"
    return answer
