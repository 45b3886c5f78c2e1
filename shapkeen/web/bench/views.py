"""The Bench page, one trait's row with its slip, and what a single file says and shows."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST
from django.views.decorators.vary import vary_on_headers

from ...core.errors import CoreError
from ...core.judged.alone import tell_alone
from ...core.judged.suspicions import suspicions
from ...core.measured import FIRST_LOOK
from ...core.reported.again import next_export
from ...core.reported.bench import bench_families, cause_lines, row_of
from ...core.reported.declared import declaration_from_object
from ...core.reported.figures.thread import station_heads
from ...core.reported.slip import slip_of
from ..history.services import record
from ..library import seen
from ..library.access import visible_attempt, visible_reel
from ..library.models import Attempt
from ..library.promise import is_silent
from ..library.services import read_sheet
from ..work.kinds import SOON
from ..work.models import Job
from ..work.services import hurry
from . import services
from .cures import copies, tables
from .differing import since_before
from .settings_check import check_sheet


@require_GET
def bench(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show the thread map of one attempt; ?open=trait unfolds that trait's slip."""
    attempt = visible_attempt(request, attempt_id)
    comparison = services.comparison_of(attempt)
    if comparison is None:
        return waiting(request, attempt, place="bench")
    opened = request.GET.get("open", "")
    verdict = next((v for v in comparison.survival.verdicts if v.trait == opened), None)
    rehearsed = services.rehearsed_of(attempt)
    received = rehearsed.traits if rehearsed else None
    families, title = bench_families(comparison, received=received), attempt.delivery.title
    context = {
        "attempt": attempt,
        "place": "bench",
        "judged": attempt.judged,
        "families": families,
        "unfolded": [family.name for family in families if family.holds_kept(opened)],
        "causes": cause_lines(comparison),
        "again": next_export(comparison),
        "heads": station_heads(received=received is not None),
        "rehearsed": rehearsed,
        "opened": opened,
        "slip": slip_of(comparison, verdict) if verdict else None,
        "survey": comparison.survey,
        "notes": comparison.survival.notes,
        "notices": comparison.export.notices,
        "since": since_before(attempt, comparison),
        "settings_check": check_sheet(attempt, comparison),
        "is_silent": is_silent(title) and not title.answers_text,
        **copies.standing_of(attempt, comparison),
        **tables.standing_of(attempt, comparison),
        **standing(attempt),
    }
    answer = render(request, "bench/bench.html", context)
    if request.user.pk:
        seen.note(request, attempt, answer)
    return answer


def standing(attempt: Attempt) -> dict[str, Any]:
    """Return whether the judgement is current, and the work that will bring a newer one."""
    job = Job.objects.latest_of(Attempt.WORK, attempt.pk)
    reasons = list(attempt.out_of_date)
    for reel, words in (
        (attempt.delivery.title.master, "the master has changed on its disk, or cannot be reached"),
        (attempt.reel, "the export has changed on its disk, or cannot be reached"),
    ):
        if not reel.is_as_read():
            reasons.append(words)
    provisional = attempt.judged is not None and attempt.judged.stage == FIRST_LOOK
    open_job = job if job is not None and (not job.is_over or (reasons and job.error)) else None
    return {"reasons": reasons, "job": open_job, "provisional": provisional}


def waiting(request: HttpRequest, attempt: Attempt, *, place: str) -> HttpResponse:
    """Show an attempt that was not judged yet: the work under way, or why it ended."""
    job = Job.objects.latest_of(Attempt.WORK, attempt.pk)
    if job is not None:
        hurry(job, SOON)
    declared = services.declared_stage_of(attempt)
    context = {
        "attempt": attempt,
        "job": job,
        "place": place,
        "families": bench_families(declared, seen=False) if declared else [],
        "causes": cause_lines(declared) if declared else [],
        "heads": station_heads(),
    }
    return render(request, "bench/waiting.html", context)


@require_GET
def ready(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Have a waiting page shown anew once there is a verdict, provisional or not; polled."""
    attempt = visible_attempt(request, attempt_id)
    answer = HttpResponse(status=204)
    if attempt.judged is not None:
        answer["HX-Refresh"] = "true"
    return answer


@require_POST
def measure(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Have an attempt measured and judged as promise and files stand now."""
    attempt = visible_attempt(request, attempt_id)
    services.measure(attempt)
    record("measuring asked for", attempt.place, by=request.user)
    return redirect(attempt)


@require_GET
@vary_on_headers("HX-Request")
def trait(request: HttpRequest, attempt_id: int, name: str) -> HttpResponse:
    """Show one trait's row, with its slip unless ?folded is asked for."""
    attempt = visible_attempt(request, attempt_id)
    comparison = services.comparison_of(attempt)
    verdict = next(
        (v for v in comparison.survival.verdicts if v.trait == name) if comparison else iter(()),
        None,
    )
    if comparison is None or verdict is None:
        raise Http404
    folded = "folded" in request.GET
    rehearsed = services.rehearsed_of(attempt)
    context = {
        "attempt": attempt,
        "row": row_of(comparison, verdict, rehearsed.traits if rehearsed else None),
        "opened": "" if folded else name,
        "slip": None if folded else slip_of(comparison, verdict),
    }
    return render(request, "bench/_trait.html", context)


@require_GET
def file(request: HttpRequest, reel_id: int) -> HttpResponse:
    """Show what one file says: both witnesses beside each other, and every field found."""
    reel = visible_reel(request, reel_id)
    context: dict[str, Any] = {"reel": reel, "attempt": getattr(reel, "attempt", None)}
    try:
        context["sheet"] = read_sheet(reel)
        shown = services.file_shows(reel)
        declared = declaration_from_object(reel.declaration)
        context["suspicions"] = suspicions(shown.look, shown.whole, declared)
        if shown.whole is not None:
            context |= {"whole": shown.whole, "statements": tell_alone(shown.whole, declared)}
    except CoreError as error:
        context["error"] = error.text
    return render(request, "library/file.html", context)
