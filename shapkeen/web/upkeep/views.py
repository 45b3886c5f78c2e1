"""Health, readiness and figures. None of them tells a stranger a path or a name."""

import hmac

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET
from prometheus_client.exposition import CONTENT_TYPE_LATEST

from . import health
from . import metrics as figures

HERE = frozenset({"127.0.0.1", "::1"})


@login_not_required
@never_cache
@require_GET
def healthz(request: HttpRequest) -> HttpResponse:
    """Say that this process answers, whatever else is wrong."""
    return HttpResponse("well\n", content_type="text/plain; charset=utf-8")


@login_not_required
@never_cache
@require_GET
def readyz(request: HttpRequest) -> HttpResponse:
    """Say whether people can be sent here: 200, or 503 with the checks that are not well."""
    found = health.checks()
    ready = health.is_ready(found)
    told = {"ready": ready, "checks": {one.name: one.is_well for one in found}}
    return JsonResponse(told, status=200 if ready else 503)


@login_not_required
@never_cache
@require_GET
def metrics(request: HttpRequest) -> HttpResponse:
    """Tell the figures to this machine, or to whoever brings the token; all others 403."""
    if not _may_watch(request):
        return HttpResponse("Send the token of SHAPKEEN_METRICS_TOKEN.", status=403)
    return HttpResponse(figures.text(), content_type=CONTENT_TYPE_LATEST)


def _may_watch(request: HttpRequest) -> bool:
    token = settings.CONF.metrics_token
    sent = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if token:
        return hmac.compare_digest(sent.encode(), token.encode())
    # Behind a proxy everybody comes from this machine.
    return not settings.CONF.has_proxy and request.META.get("REMOTE_ADDR") in HERE
