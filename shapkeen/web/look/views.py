"""The Look page, and the stills it draws."""

from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from ...core.colour.codepoints import HDR_TRANSFERS
from ...core.errors import CoreError
from ..library.access import visible_attempt
from . import stills


@require_GET
def look(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show master and export of one moment, beside each other or wiped."""
    attempt = visible_attempt(request, attempt_id)
    comparison = attempt.comparison()
    context = {"attempt": attempt, "job": attempt.job, "place": "look"}
    if comparison is None:
        return render(request, "bench/waiting.html", context)
    pairs = comparison.survey.pairs
    asked = request.GET.get("frame", "")
    number = int(asked) if asked.isdecimal() else pairs[len(pairs) // 2].export_frame
    chosen = min(range(len(pairs)), key=lambda i: abs(pairs[i].export_frame - number))
    context |= {
        "pairs": pairs,
        "chosen": chosen,
        "is_hdr": comparison.promise.value("transfer") in HDR_TRANSFERS,
        "shape": comparison.promise.value("shown_shape"),
    }
    return render(request, "look/look.html", context)


@require_GET
@cache_control(private=True, max_age=3600)
def still(
    request: HttpRequest, attempt_id: int, side: str, frame: int, eyes: str
) -> HttpResponse | FileResponse:
    """Send one frame of the master or the export as PNG."""
    attempt = visible_attempt(request, attempt_id)
    reel = attempt.delivery.title.master if side == "master" else attempt.reel
    try:
        path = stills.still_path(reel, frame, eyes)
    except CoreError as error:
        return HttpResponse(error.text, status=422, content_type="text/plain; charset=utf-8")
    return FileResponse(path.open("rb"), content_type="image/png")
