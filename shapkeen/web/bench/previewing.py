"""What a promise that is not kept yet would make of the attempts that it is asked of."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from ...core.compared import judge_survey
from ...core.errors import UsageError
from ...core.judged import Comparison
from ...core.promised import Promise, promise_from_layers
from ...core.reported.change import Change, change_between
from ..library import asking
from ..library.asking import Asked
from ..library.models import Attempt, Delivery, Title
from . import services
from .models import Survey

MOST = 12
"""Attempts that are judged for a preview, the newest first."""


@dataclass(frozen=True, slots=True)
class Outlook:
    """What would become of one attempt. after: the verdict then; empty: to be measured first."""

    attempt: Attempt
    before: str
    after: str
    change: Change | None = None


@require_POST
def preview(request: HttpRequest, delivery_id: int) -> HttpResponse:
    """Show which attempts of a delivery a promise would judge otherwise; nothing is kept."""
    visible = Delivery.objects.visible_to(request.user).select_related("title__master")
    delivery = get_object_or_404(visible, pk=delivery_id)
    attempts = delivery.attempts.filter(binned_at=None).with_context().order_by("-number")

    def overrides(_attempt: Attempt, text: str) -> Promise | None:
        return promise_from_layers([*delivery.layers_before(), (text, delivery.promise_origin)])

    return _preview(request, delivery, attempts[:MOST], overrides)


@require_POST
def preview_title(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show which deliveries' newest attempts a title's promise would judge otherwise."""
    visible = Title.objects.visible_to(request.user).select_related("master")
    title = get_object_or_404(visible, pk=title_id)
    newest: dict[int, Attempt] = {}
    present = Attempt.objects.filter(binned_at=None, delivery__binned_at=None).with_context()
    for attempt in present.filter(delivery__title=title).order_by("delivery__name", "number"):
        newest[attempt.delivery_id] = attempt

    def overrides(attempt: Attempt, text: str) -> Promise | None:
        return promise_from_layers(attempt.delivery.promise_layers(of_title=text))

    return _preview(request, title, list(newest.values())[:MOST], overrides)


def _preview(
    request: HttpRequest,
    asked: Asked,
    attempts: Iterable[Attempt],
    overrides: Callable[[Attempt, str], Promise | None],
) -> HttpResponse:
    try:
        text = asking.text_of(request.POST, asked.promise_text)
        asking.as_promised(asked, text)
        outlooks = [outlook_of(attempt, overrides(attempt, text)) for attempt in attempts]
    except UsageError as error:
        return render(request, "bench/_promise_preview.html", {"refusal": error.text})
    changed = asking.items_of(text) != asking.items_of(asked.promise_text)
    context = {"outlooks": outlooks, "changed": changed, "is_title": isinstance(asked, Title)}
    return render(request, "bench/_promise_preview.html", context)


def outlook_of(attempt: Attempt, overrides: Promise | None) -> Outlook:
    """Return what a promise would make of an attempt, from its kept survey."""
    judged = attempt.judged
    before = judged.overall if judged else ""
    now = services.comparison_of(attempt)
    then = judged_by(attempt, overrides)
    if then is None:
        return Outlook(attempt, before, "")
    change = change_between(now, then) if now else None
    return Outlook(attempt, before, then.survival.overall, change)


def judged_by(attempt: Attempt, overrides: Promise | None) -> Comparison | None:
    """Return an attempt judged by another promise; None where that was never measured."""
    survey: Survey | None = services.fitting_survey(attempt, overrides)
    if survey is None:
        return None
    return judge_survey(
        *survey.declarations(), survey.survey(), overrides=overrides, read_s=survey.read_s
    )
