"""Pages of rehearsals: every service at a glance, one rehearsal, its pictures."""

from typing import Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from django.views.decorators.vary import vary_on_headers

from ...core.errors import UsageError
from ...core.rehearsed.ladder import Plan
from ...core.rehearsed.viewers import SCREENS
from ..library.access import visible_attempt
from ..library.models import Attempt
from ..look.answers import file_answer
from ..work.models import Job
from . import page, services, stills
from .forms import AskForm, LookForm
from .models import Rehearsal
from .seen import PEAKS, USUAL_PEAK


def visible_rehearsal(request: HttpRequest, rehearsal_id: int) -> Rehearsal:
    """Return a rehearsal with its context; answers 404 where the user may not see it."""
    visible = Rehearsal.objects.visible_to(request.user).with_context()
    return get_object_or_404(visible, pk=rehearsal_id)


@require_http_methods(["GET", "POST"])
def rehearse(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show what every service would make of an attempt; have one of them rehearsed."""
    attempt = visible_attempt(request, attempt_id)
    if request.method == "POST":
        return _asked_for(request, attempt)
    context = {"attempt": attempt, "place": "rehearse", "rows": services.rows_of(attempt)}
    return render(request, "rehearsal/rehearse.html", context)


def _asked_for(request: HttpRequest, attempt: Attempt) -> HttpResponse:
    form = AskForm(request.POST)
    if not form.is_valid():
        messages.error(request, "Choose a service.")
        return redirect("rehearsal:rehearse", attempt.pk)
    key, whole = form.cleaned_data["service"], form.cleaned_data["whole"]
    try:
        return redirect(services.ask(attempt, key, whole=whole, by=request.user))
    except UsageError as error:
        messages.error(request, error.text)
        return redirect("rehearsal:rehearse", attempt.pk)


@require_GET
@vary_on_headers("HX-Request")
def rehearsal(request: HttpRequest, rehearsal_id: int) -> HttpResponse:
    """Show one rehearsal; to htmx, what the screens show at a simulated time."""
    found = visible_rehearsal(request, rehearsal_id)
    arrival = services.arrival_at(found.attempt, found.service_as_asked())
    context: dict[str, Any] = {
        "rehearsal": found,
        "attempt": found.attempt,
        "place": "rehearse",
        "arrival": arrival,
        "peaks": PEAKS,
        **page.screens_told(found, arrival, request.GET),
    }
    if request.htmx and "part" in request.GET:  # type: ignore[attr-defined]
        return render(request, "rehearsal/_screens.html", context)
    job = Job.objects.latest_of(services.REHEARSE, found.pk)
    context |= {
        "job": job if job is not None and not found.found else None,
        "rows": page.rows_of(found),
        "trials": page.trials_told(found),
        "is_part": page.is_part(found),
    }
    if found.found and arrival.plans:
        context["form"] = page.question_form(found, None)
    return render(request, "rehearsal/rehearsal.html", context)


@require_GET
def look(request: HttpRequest, rehearsal_id: int) -> HttpResponse:
    """Show master or sent file beside a rendition, on a screen, as large as the window allows."""
    found = visible_rehearsal(request, rehearsal_id)
    arrival = services.arrival_at(found.attempt, found.service_as_asked())
    if not found.found or not arrival.plans:
        return redirect(found)
    asked = _asked(request)
    place = min(asked.get("rendition") or 0, len(arrival.plans) - 1)
    rows = found.found["renditions"]
    moments = found.moments
    frame = asked.get("frame")
    context = {
        "rehearsal": found,
        "attempt": found.attempt,
        "place": "rehearse",
        "renditions": [
            {
                "name": row["name"],
                "step": plan.step,
                "rate": float(plan.rate),
                "series": row["series"],
                "frames": stills.shown_frames(found, plan.step),
            }
            for row, plan in zip(rows, arrival.plans, strict=True)
        ],
        "chosen": place,
        "screens": SCREENS,
        "screen": asked.get("screen") or "plain",
        "peaks": PEAKS,
        "peak": asked.get("peak") or USUAL_PEAK,
        "frame": next(iter(moments.values()), 0) if frame is None else frame,
        "moments": moments,
        "is_sphere": bool(arrival.recognition["projection"]),
    }
    return render(request, "rehearsal/look.html", context)


@require_GET
@cache_control(private=True, max_age=3600)
def still(
    request: HttpRequest, rehearsal_id: int, side: str, frame: int
) -> HttpResponse | FileResponse:
    """Send one side's frame on a screen as PNG."""
    found = visible_rehearsal(request, rehearsal_id)
    wanted, plan = _look(request, found)
    return file_answer(
        lambda: stills.still(found, side, frame, wanted, plan.step, every="every" in request.GET)
    )


@require_GET
@cache_control(private=True, max_age=3600)
def pair(
    request: HttpRequest, rehearsal_id: int, side: str, first: int
) -> HttpResponse | FileResponse:
    """Send a stretch of both sides in step as MP4."""
    found = visible_rehearsal(request, rehearsal_id)
    wanted, plan = _look(request, found)
    return file_answer(lambda: stills.pair(found, side, first, wanted, plan.step), kind="video/mp4")


def _asked(request: HttpRequest) -> dict[str, Any]:
    form = LookForm(request.GET)
    return form.cleaned_data if form.is_valid() else {}


def _look(request: HttpRequest, found: Rehearsal) -> tuple[stills.Look, Plan]:
    """Return what is looked at; answers 404 where there is no such rendition yet."""
    asked = _asked(request)
    plans = services.arrival_at(found.attempt, found.service_as_asked()).plans
    place = asked.get("rendition") or 0
    if not found.found or place >= len(plans):
        raise Http404
    wanted = stills.Look(
        rendition=place,
        screen=asked.get("screen") or "plain",
        peak=asked.get("peak") or USUAL_PEAK,
        yaw=asked.get("yaw") or 0.0,
        pitch=asked.get("pitch") or 0.0,
    )
    return wanted, plans[place]


@require_POST
def again(request: HttpRequest, rehearsal_id: int) -> HttpResponse:
    """Rehearse the same again, as promise, file and stand-in are now."""
    found = visible_rehearsal(request, rehearsal_id)
    try:
        return redirect(services.ask(found.attempt, found.key, whole=found.whole, by=request.user))
    except UsageError as error:
        messages.error(request, error.text)
        return redirect(found)
