"""The page of what happened, and what a page is told while it is open."""

from datetime import datetime

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from . import services


@require_GET
def news(request: HttpRequest) -> HttpResponse:
    """Show what happened since one was last here, and before; then it is seen."""
    before, now = services.seen_until(request.user), timezone.now()
    found = services.notices(request.user)
    services.mark_seen(request.user, now)
    context = {
        "fresh": [one for one in found if one.at > before],
        "older": [one for one in found if one.at <= before],
        "since": before,
    }
    return render(request, "notices/news.html", context)


@require_GET
@never_cache
def tell(request: HttpRequest) -> HttpResponse:
    """Answer as JSON how much is unseen, and what came ?after a time that was told before."""
    now = timezone.now()
    since, most = services.seen_until(request.user), services.MOST_TOLD
    unseen = services.notices(request.user, since, most=most)
    after = _time(request.GET.get("after", "")) or now
    fresh = [one for one in unseen if one.at > after]
    told = [
        {"words": one.words, "of": one.of, "address": one.address, "mark": one.verdict or "done"}
        for one in fresh
    ]
    return JsonResponse(
        {"now": now.isoformat(), "unseen": len(unseen), "most": most, "fresh": told}
    )


def _time(text: str) -> datetime | None:
    """Return a time that was told before; None for anything else."""
    try:
        found = parse_datetime(text)
    except ValueError:
        return None
    return found if found is not None and found.tzinfo is not None else None
