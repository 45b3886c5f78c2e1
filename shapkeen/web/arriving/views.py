"""The page of files that arrived, and the ways that they come."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from ...core.compared.placing import EXPORT, MASTER
from ...core.errors import CoreError
from ..library.uploads import write_failure
from . import services
from .sample import bring_sample
from .services import Wish

MOST_NAME, MOST_ODD = 1000, 8


@require_http_methods(["GET", "POST"])
def arrived(request: HttpRequest) -> HttpResponse:
    """Show what arrived with what is proposed for it; take one confirmation for all."""
    if request.method == "POST":
        return _bring_in(request)
    left = services.read_some(request.user)
    context = {
        "left": left,
        "placed": [] if left else services.proposals(request.user),
        "titles": services.titles_for(request.user),
        "roles": ((MASTER, "master of"), (EXPORT, "export of"), ("", "leave it here")),
    }
    part = request.htmx and request.GET.get("part") == "files"  # type: ignore[attr-defined]
    return render(request, "arriving/_files.html" if part else "arriving/arrived.html", context)


def _bring_in(request: HttpRequest) -> HttpResponse:
    """Bring in as the rows say; what is left or fails stays."""
    wishes = [
        Wish(
            arrival=arrival,
            role=request.POST.get(f"role-{arrival.pk}", ""),
            title=request.POST.get(f"title-{arrival.pk}", "").strip()[:120],
            delivery=request.POST.get(f"delivery-{arrival.pk}", "").strip()[:80] or "Export",
        )
        for arrival in services.of(request.user).exclude(declaration__isnull=True)
    ]
    done = services.bring_in(wishes, by=request.user)
    told = []
    if done.titles:
        told.append(f"{len(done.titles)} new title{'' if len(done.titles) == 1 else 's'}")
    if done.exports:
        told.append(f"{done.exports} export{'' if done.exports == 1 else 's'}, being measured")
    if told:
        messages.success(request, f"Brought in: {' and '.join(told)}.")
    for name, why in done.troubles:
        messages.error(request, f"{name} stays here: {why}")
    if services.of(request.user).exists():
        return redirect("arriving:arrived")
    return redirect(done.titles[0] if len(done.titles) == 1 else "library:shelf")


@require_POST
def send(request: HttpRequest) -> HttpResponse:
    """Take one file; answers 204, or 422 with why not."""
    failure, sent = request.META.get("shapkeen.upload_failure"), request.FILES.get("file")
    if failure or sent is None:
        return _no(failure or "No file was sent.")
    try:
        services.take(sent, request.POST.get("name", "")[:MOST_NAME], by=request.user)  # type: ignore[arg-type]
    except OSError as error:
        return _no(write_failure(error))
    return HttpResponse(status=204)


def _no(words: str) -> HttpResponse:
    return HttpResponse(words, status=422, content_type="text/plain; charset=utf-8")


@require_POST
def folder(request: HttpRequest) -> HttpResponse:
    """Note all files of a folder of a media root."""
    try:
        found = services.take_folder(
            request.POST.get("root", ""), request.POST.get("folder", ""), by=request.user
        )
    except CoreError as error:
        messages.error(request, error.text)
    else:
        if not found:
            messages.info(request, "Every file of that folder was brought in before.")
    return redirect("arriving:arrived")


@require_POST
def paths(request: HttpRequest) -> HttpResponse:
    """Note all files that a list names; lines that name none are told."""
    found, odd = services.take_paths(request.POST.get("paths", ""), by=request.user)
    for line in odd[:MOST_ODD]:
        messages.error(request, line)
    if len(odd) > MOST_ODD:
        messages.error(request, f"and {len(odd) - MOST_ODD} more lines")
    if not found and not odd:
        messages.info(request, "Every file of that list was brought in before, or waits here.")
    return redirect("arriving:arrived")


@require_POST
def put_away(request: HttpRequest, arrival_id: int) -> HttpResponse:
    """Take a file off the list."""
    services.put_away(get_object_or_404(services.of(request.user), pk=arrival_id))
    return redirect("arriving:arrived")


@require_POST
def sample(request: HttpRequest) -> HttpResponse:
    """Bring in the pair to try with, and go to where it is judged."""
    try:
        return redirect(bring_sample(by=request.user))
    except (CoreError, OSError) as error:
        messages.error(
            request, error.text if isinstance(error, CoreError) else write_failure(error)
        )
        return redirect("library:shelf")
