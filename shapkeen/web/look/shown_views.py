"""Sending the pictures of the Bench."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from ...core.promised import stated_by
from ...core.rehearsed import displays_for
from ...core.reported.declared import declaration_from_object
from ...core.reported.report.pictures import display_of
from ..bench.services import drawn_comparison_of
from ..library.access import visible_attempt
from ..library.models import Title
from . import shown, stills
from .answers import file_answer


@require_GET
@cache_control(private=True, max_age=300)
def pair(
    request: HttpRequest, attempt_id: int, trait: str, side: str
) -> HttpResponse | FileResponse:
    """Send one side of the pair of pictures that shows a cause."""
    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    found = shown.cause_pairs(comparison) if comparison else iter(())
    one = next((pair for pair in found if pair.trait == trait), None)
    if comparison is None or one is None:
        raise Http404
    display = display_of(comparison)[0]
    return file_answer(lambda: stills.pair(attempt, one.frames, display, side, whole=one.whole))


@require_GET
@cache_control(private=True, max_age=3600)
def poster(request: HttpRequest, title_id: int) -> HttpResponse | FileResponse:
    """Send a picture of a title, small unless ?large: the middle of its master."""
    visible = Title.objects.visible_to(request.user).select_related("master")
    title = get_object_or_404(visible, pk=title_id)
    declared = declaration_from_object(title.master.declaration)
    stated = stated_by(declared, "transfer")
    display = displays_for(stated[1].value if stated else None)[0]
    frame = (declared.video.frame_count or 1) // 2
    if "large" in request.GET:
        return file_answer(lambda: stills.still(title.master, frame, display))
    return file_answer(lambda: stills.poster(title.master, frame, display))


@require_GET
@cache_control(private=True, max_age=300)
def band(request: HttpRequest, attempt_id: int, side: str) -> HttpResponse | FileResponse:
    """Send the master or the export as a band of columns through time."""
    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    if comparison is None or not comparison.survey.pairs:
        raise Http404
    frames = shown.band_frames(comparison)[0 if side == "master" else 1]
    reel = attempt.delivery.title.master if side == "master" else attempt.reel
    return file_answer(lambda: stills.band(reel, frames, display_of(comparison)[0]))
