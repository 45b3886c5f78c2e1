"""The Bench page, and one trait's row with its slip."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET
from django.views.decorators.vary import vary_on_headers

from ...core.reported.bench import bench_families, cause_lines, row_of
from ...core.reported.figures.thread import station_heads
from ...core.reported.slip import slip_of
from ..library.access import visible_attempt
from ..plan.settings_check import check_sheet


@require_GET
def bench(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show the thread map of one attempt; ?open=trait unfolds that trait's slip."""
    attempt = visible_attempt(request, attempt_id)
    context = {"attempt": attempt, "job": attempt.job, "place": "bench"}
    comparison = attempt.comparison()
    if comparison is None:
        return render(request, "bench/waiting.html", context)
    opened = request.GET.get("open", "")
    verdict = next((v for v in comparison.survival.verdicts if v.trait == opened), None)
    families = bench_families(comparison)
    context |= {
        "families": families,
        "unfolded": [family.name for family in families if family.holds_kept(opened)],
        "causes": cause_lines(comparison),
        "heads": station_heads(),
        "opened": opened,
        "slip": slip_of(comparison, verdict) if verdict else None,
        "survey": comparison.survey,
        "notices": comparison.export.notices,
        "settings_check": check_sheet(attempt, comparison),
    }
    return render(request, "bench/bench.html", context)


@require_GET
@vary_on_headers("HX-Request")
def trait(request: HttpRequest, attempt_id: int, name: str) -> HttpResponse:
    """Show one trait's row, with its slip unless ?folded is asked for."""
    attempt = visible_attempt(request, attempt_id)
    comparison = attempt.comparison()
    verdict = next(
        (v for v in comparison.survival.verdicts if v.trait == name) if comparison else iter(()),
        None,
    )
    if comparison is None or verdict is None:
        raise Http404
    folded = "folded" in request.GET
    context = {
        "attempt": attempt,
        "row": row_of(comparison, verdict),
        "opened": "" if folded else name,
        "slip": None if folded else slip_of(comparison, verdict),
    }
    return render(request, "bench/_trait.html", context)
