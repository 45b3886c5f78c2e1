"""Remarks on Look: said, answered, closed, exported."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from ..library.access import visible_attempt
from ..library.models import Attempt
from . import remarks
from .forms import AnswerForm, RemarkForm
from .models import Remark


def _answer(request: HttpRequest, attempt: Attempt, error: str = "") -> HttpResponse:
    if not request.htmx:  # type: ignore[attr-defined]  # set by the htmx middleware
        return redirect("look:look", attempt.pk)
    context = {"attempt": attempt, "threads": remarks.threads_of(attempt), "error": error}
    return render(request, "signoff/_remarks.html", context, status=422 if error else 200)


@require_GET
def listing(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show an attempt's remarks."""
    return _answer(request, visible_attempt(request, attempt_id))


@require_POST
def say(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Say something of a frame, at a place of its picture."""
    attempt = visible_attempt(request, attempt_id)
    form = RemarkForm(request.POST)
    if not form.is_valid():
        return _answer(request, attempt, "Write what you see there, in at most 1000 signs.")
    data = form.cleaned_data
    remarks.say(attempt, data["text"], frame=data["frame"], place=form.place(), by=request.user)
    return _answer(request, attempt)


def _remark(remark_id: int) -> Remark:
    rows = Remark.objects.select_related("attempt__delivery__title__master", "attempt__reel")
    return get_object_or_404(rows, pk=remark_id)


@require_POST
def answer(request: HttpRequest, remark_id: int) -> HttpResponse:
    """Answer a remark."""
    found, form = _remark(remark_id), AnswerForm(request.POST)
    if not form.is_valid():
        return _answer(request, found.attempt, "Write an answer, in at most 1000 signs.")
    remarks.answer(found, form.cleaned_data["text"], by=request.user)
    return _answer(request, found.attempt)


@require_POST
def close(request: HttpRequest, remark_id: int) -> HttpResponse:
    """Close a remark; open it again where ?again is asked for."""
    found = _remark(remark_id)
    remarks.close(found, by=request.user, closed="again" not in request.GET)
    return _answer(request, found.attempt)


@require_GET
def export(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Send an attempt's remarks as CSV."""
    attempt = visible_attempt(request, attempt_id)
    answer = HttpResponse(remarks.remarks_csv(attempt), content_type="text/csv; charset=utf-8")
    name = f"{slugify(str(attempt)) or 'attempt'}-remarks.csv"
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
