"""The Sign-off page: findings and waivers, digests, the decision; and review links."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from ...core.errors import CoreError, UsageError
from ..bench.services import comparison_of
from ..bench.views import standing, waiting
from ..history.models import Event
from ..library.access import visible_attempt
from ..library.models import Attempt
from . import links, services
from .forms import DecisionForm, LinkForm, WaiverForm
from .models import ReviewLink, Waiver

LATEST = 12
"""Events on the Sign-off page; the rest stands on the history's own."""


@require_GET
def signoff(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show what is to be decided of an attempt, by what, and what was decided."""
    attempt = visible_attempt(request, attempt_id)
    if comparison_of(attempt) is None:
        return waiting(request, attempt, place="signoff")
    return _page(request, attempt)


def _page(request: HttpRequest, attempt: Attempt, **more: Any) -> HttpResponse:
    comparison = comparison_of(attempt)
    stands = services.standing_of(attempt, comparison)
    context: dict[str, Any] = {
        "attempt": attempt,
        "place": "signoff",
        "judged": attempt.judged,
        "findings": services.findings_of(attempt, comparison),
        "stands": stands,
        "signatures": attempt.signatures.all(),
        "unmeasured": services.unmeasured_of(attempt, stands.files),
        "seen": services.seen_of(attempt, comparison, stands),
        "decision": DecisionForm(),
        "waiver": WaiverForm(),
        "link_form": LinkForm(),
        "links": attempt.links.select_related("made_by"),
        "events": Event.objects.of_attempt(attempt.pk)[:LATEST],
        **standing(attempt),
        **more,
    }
    failed = any(getattr(more.get(name), "errors", None) for name in more)
    status = 422 if failed or "refusal" in more else 200
    return render(request, "signoff/signoff.html", context, status=status)


@require_POST
def sign(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Sign an attempt, or refuse it."""
    attempt = visible_attempt(request, attempt_id)
    form = DecisionForm(request.POST)
    if not form.is_valid():
        return _page(request, attempt, decision=form)
    data = form.cleaned_data
    try:
        made = services.sign(
            attempt, data["decision"], data["remark"], by=request.user, seen=data["seen"]
        )
    except CoreError as error:
        return _page(request, attempt, decision=form, refusal=error.text)
    messages.success(request, f"{made.decision.capitalize()}, with both files' digests.")
    return redirect("signoff:signoff", attempt.pk)


@require_POST
def waive(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Let a finding pass, with the reason."""
    attempt = visible_attempt(request, attempt_id)
    form = WaiverForm(request.POST)
    if not form.is_valid():
        asked = request.POST.get("trait", "")
        return _page(request, attempt, refusal="Say why it may pass.", asked=asked)
    data = form.cleaned_data
    try:
        services.waive(attempt, data["trait"], data["reason"], by=request.user)
    except UsageError as error:
        return _page(request, attempt, refusal=error.text)
    return redirect("signoff:signoff", attempt.pk)


@require_POST
def unwaive(request: HttpRequest, waiver_id: int) -> HttpResponse:
    """Take a waiver back."""
    waiver = get_object_or_404(
        Waiver.objects.select_related("attempt__delivery__title"), pk=waiver_id, ended_at=None
    )
    services.unwaive(waiver, by=request.user)
    return redirect("signoff:signoff", waiver.attempt_id)


@require_POST
def make_link(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Make a review link, and show its address once."""
    attempt = visible_attempt(request, attempt_id)
    form = LinkForm(request.POST)
    if not form.is_valid():
        return _page(request, attempt, link_form=form)
    data = form.cleaned_data
    made, token = links.make_link(
        attempt,
        data["name"],
        days=data["days"],
        remarks=data["remarks"],
        signs=data["signs"],
        by=request.user,
    )
    address = request.build_absolute_uri(reverse("signoff:review", args=[token]))
    return _page(request, attempt, made_link=made, address=address)


@require_POST
def end_link(request: HttpRequest, link_id: int) -> HttpResponse:
    """End a review link."""
    link = get_object_or_404(
        ReviewLink.objects.select_related("attempt__delivery__title"), pk=link_id
    )
    links.end_link(link, by=request.user)
    return redirect("signoff:signoff", link.attempt_id)


@login_not_required
@require_GET
def review(request: HttpRequest, token: str) -> HttpResponse:
    """Let somebody in by a review link."""
    link = links.open_link(request, token)
    if link is None:
        return render(request, "signoff/no_link.html", status=404)
    return redirect("bench:bench", link.attempt_id)
