"""Two attempts beside each other."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from ...core.judged import Comparison
from ...core.reported.change import BETTER, OTHERWISE, WORSE, Change, change_between
from ...core.reported.report import telling_moment
from ...core.reported.report.pictures import display_of
from ..library.access import visible_attempt, whole_number
from ..library.models import Attempt
from . import services


@require_GET
def differ(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show what changed from another attempt (?with=, else the one before) to this one."""
    attempt = visible_attempt(request, attempt_id)
    others = others_of(request, attempt)
    asked = whole_number(request.GET.get("with", ""))
    other = next((one for one in others if one.pk == asked), None) or before_of(attempt, others)
    now = services.comparison_of(attempt)
    was = services.comparison_of(other) if other else None
    context: dict[str, Any] = {
        "attempt": attempt,
        "other": other,
        "others": others,
        "place": "bench",
    }
    if now is not None and was is not None:
        change = change_between(was, now)
        moment, display = telling_moment(now), display_of(now)[0]
        context |= {
            "change": change,
            "ways": [(way, change.of(way)) for way in (WORSE, BETTER, OTHERWISE)],
            "frame": moment[1] if moment else None,
            "display": display,
            "was": was.survival,
            "now": now.survival,
        }
    return render(request, "bench/differ.html", context)


def since_before(attempt: Attempt, now: Comparison) -> tuple[Attempt, Change] | None:
    """Return the attempt before this one in its delivery, and what changed since; None without."""
    if attempt.number == 1:
        return None
    earlier = attempt.delivery.attempts.filter(number__lt=attempt.number, binned_at=None)
    other = earlier.exclude(judgement=None).with_context().order_by("number").last()
    was = services.comparison_of(other) if other else None
    return (other, change_between(was, now)) if other and was else None


def others_of(request: HttpRequest, attempt: Attempt) -> list[Attempt]:
    """Return the other attempts of the title that were judged, this delivery's first."""
    rows = Attempt.objects.visible_to(request.user).with_context()
    rows = rows.filter(delivery__title=attempt.delivery.title_id).exclude(pk=attempt.pk)
    judged = rows.exclude(judgement=None).order_by("delivery__name", "number")
    return sorted(judged, key=lambda one: one.delivery_id != attempt.delivery_id)


def before_of(attempt: Attempt, others: list[Attempt]) -> Attempt | None:
    """Return the attempt before this one in its delivery, else any other."""
    kin = [one for one in others if one.delivery_id == attempt.delivery_id]
    earlier = [one for one in kin if one.number < attempt.number]
    return earlier[-1] if earlier else next(iter(others), None)
