"""The Look page, and the stills it draws."""

from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from ...core.colour.codepoints import HDR_TRANSFERS
from ...core.colour.difference import difference_name
from ...core.errors import CoreError
from ...core.rehearsed import display_words, displays_for
from ..bench.services import drawn_comparison_of
from ..bench.views import standing, waiting
from ..library.access import visible_attempt, whole_number
from . import stills
from .answers import file_answer
from .forms import ProbeForm
from .moments import OVERLAYS, areas_of, aspects_of, circle_of, laid_over, strip_of
from .played import played, timecode_of


@require_GET
def look(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show master and export of one moment, beside each other or wiped."""
    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    if comparison is None:
        return waiting(request, attempt, place="look")
    context: dict[str, Any] = {"attempt": attempt, "place": "look", **standing(attempt)}
    strip, pairs = strip_of(comparison.survey), comparison.survey.pairs
    asked = whole_number(request.GET.get("frame", ""))
    number = pairs[len(pairs) // 2].export_frame if asked is None else asked
    transfer = comparison.promise.value("transfer")
    is_hdr = transfer in HDR_TRANSFERS
    displays = displays_for(transfer)
    context |= {
        "strip": strip,
        "worst": [(index, strip.rows[index][1]) for index in strip.worst],
        "chosen": strip.nearest(number),
        "displays": [(name, display_words(name, is_hdr=is_hdr)) for name in displays],
        "unit": difference_name(transfer if isinstance(transfer, int) else 0),
        "rect": " ".join(f"{value:.5f}" for value in laid_over(comparison.survey)),
        "aspects": " ".join(f"{value:.5f}" for value in aspects_of(comparison)),
        "circle": f"{circle_of(comparison):.5f}",
        "overlays": OVERLAYS,
        "areas": areas_of(comparison.survey),
        "shape": comparison.promise.value("shown_shape"),
        "survey": comparison.survey,
        "timecode": timecode_of(comparison),
        **played(comparison),
    }
    return render(request, "look/look.html", context)


@require_GET
@cache_control(private=True, max_age=3600)
def still(
    request: HttpRequest, attempt_id: int, side: str, frame: int, display: str
) -> HttpResponse | FileResponse:
    """Send one frame of the master or the export as PNG."""
    attempt = visible_attempt(request, attempt_id)
    reel = attempt.delivery.title.master if side == "master" else attempt.reel
    whole = "whole" in request.GET
    return file_answer(lambda: stills.still(reel, frame, display, whole=whole))


@require_GET
@cache_control(private=True, max_age=3600)
def difference(
    request: HttpRequest, attempt_id: int, master_frame: int, export_frame: int
) -> HttpResponse | FileResponse:
    """Send the difference of one pair of frames as PNG."""
    attempt = visible_attempt(request, attempt_id)
    return file_answer(lambda: stills.difference(attempt, (master_frame, export_frame)))


@require_GET
def probe(
    request: HttpRequest, attempt_id: int, master_frame: int, export_frame: int
) -> HttpResponse:
    """Show the values of both pictures at ?x, y and over w, h: fractions of the picture."""
    from ...core.rehearsed.moment import load_moment
    from ...core.rehearsed.probe import probe_moment

    attempt = visible_attempt(request, attempt_id)
    form = ProbeForm(request.GET)
    if not form.is_valid():
        return render(request, "look/_probe.html", {"error": "Choose a place in the picture."})
    try:
        with stills.moment(attempt, (master_frame, export_frame)) as samples:
            probed = probe_moment(load_moment(samples), form.area())
    except CoreError as error:
        return render(request, "look/_probe.html", {"error": error.text})
    rows = [("master", probed.master), ("export", probed.export)]
    return render(request, "look/_probe.html", {"probed": probed, "rows": rows})


@require_GET
def scopes(
    request: HttpRequest, attempt_id: int, master_frame: int, export_frame: int
) -> HttpResponse:
    """Show waveform, vector and tone of one moment, or of its area ?x, y, w, h."""
    from ...core.rehearsed.moment import load_moment
    from ...core.rehearsed.scopes import scopes_of
    from ...core.reported.figures.scopes import scope_figures

    attempt = visible_attempt(request, attempt_id)
    form = ProbeForm(request.GET)
    area = form.area() if form.is_valid() else None
    area = area if area is not None and area.width and area.height else None
    try:
        with stills.moment(attempt, (master_frame, export_frame)) as samples:
            found = scopes_of(load_moment(samples), area)
    except CoreError as error:
        return render(request, "look/_scopes.html", {"error": error.text})
    drawings = scope_figures(found)
    whole = "All of the picture; press Probe and drag for an area."
    of = f"{found.master.samples} samples of the master, {found.export.samples} of the export."
    words = of if area else whole
    return render(request, "look/_scopes.html", {"drawings": drawings, "words": words})
