"""Many attempts chosen on the Shelf: what an act would do to each, then doing it."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_POST

from ..library import finding
from ..library.models import Attempt
from ..reports.forms import KINDS
from . import services

ALL = "all"


@require_POST
def ask(request: HttpRequest) -> HttpResponse:
    """Show what an act would do to each chosen attempt, alike ones together."""
    name, chosen = request.POST.get("act", ""), _chosen(request)
    if not chosen:
        messages.error(request, "Choose at least one delivery first.")
        return redirect("library:shelf")
    if name == "archive":
        titles = sorted({attempt.delivery.title_id for attempt in chosen})
        address = reverse("archive:listing")
        chosen_too = [(name, "on") for name in ("masters", "reports", "tables")]
        asked = urlencode([*(("titles", one) for one in titles), *chosen_too])
        return redirect(f"{address}?{asked}")
    lines = services.looked_at(_act(name), chosen, by=request.user)
    return _page(request, name, lines)


def _page(request: HttpRequest, name: str, lines: list[services.Line]) -> HttpResponse:
    context: dict[str, Any] = {
        "name": name,
        "act": _act(name),
        "groups": services.grouped(lines),
        "refused": services.grouped(lines, refused=True),
        "query": request.POST.get("query", ""),
        "most": services.MOST,
        "kinds": KINDS if name == "report" else (),
    }
    return render(request, "many/ask.html", context)


@require_POST
def do(request: HttpRequest) -> HttpResponse:
    """Do it, and go back to where it was chosen; what was refused meanwhile is told."""
    act = _act(request.POST.get("act", ""))
    choices = {"kind": request.POST.get("kind", "html")}
    if choices["kind"] not in dict(KINDS):
        raise Http404
    done, refused = services.carried_out(act, _chosen(request), choices, by=request.user)
    if done:
        messages.success(request, f"{done} {act.done}. News tells when they are done.")
    for line in refused[:5]:
        messages.error(request, f"{line.attempt}: {line.refusal}")
    query = QueryDict(request.POST.get("query", "")).urlencode()
    return redirect(f"{reverse('library:shelf')}?{query}")


def _act(name: str) -> services.Act:
    if name not in services.ACTS:
        raise Http404
    return services.ACTS[name]


def _chosen(request: HttpRequest) -> list[Attempt]:
    """Return the attempts that were ticked, or (all) the newest of all that the search found."""
    visible = Attempt.objects.visible_to(request.user).with_context()
    if request.POST.get("which") == ALL:
        form = finding.ShelfForm(QueryDict(request.POST.get("query", "")))
        rows = finding.newest_found(request.user, form).with_context()
    else:
        numbers = [one for one in request.POST.getlist("attempt") if one.isdecimal()]
        rows = visible.filter(pk__in=numbers[: services.MOST])
    ordered = rows.order_by("delivery__title__name", "delivery__name")
    return list(ordered[: services.MOST])
