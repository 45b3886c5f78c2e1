"""Looking around a sphere, and through both eyes."""

from dataclasses import asdict

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from ...core.colour.difference import difference_name
from ...core.judged import Comparison
from ...core.rehearsed import displays_for
from ..bench.services import drawn_comparison_of, frame_pairs
from ..bench.views import standing, waiting
from ..library.access import visible_attempt, whole_number
from ..library.models import Attempt
from . import services, stills
from .answers import file_answer
from .forms import ConvergenceForm, ScreenForm
from .immersive import glasses, shifts_of, sides_of
from .moments import strip_of
from .played import played, rate_of


def _context(request: HttpRequest, attempt: Attempt, comparison: Comparison) -> dict[str, object]:
    """Return what both pages need; they show every moment that Look shows."""
    strip, pairs = strip_of(comparison.survey), comparison.survey.pairs
    asked = whole_number(request.GET.get("frame", ""))
    transfer = comparison.promise.value("transfer")
    displays = displays_for(transfer)
    return {
        "attempt": attempt,
        **standing(attempt),
        "place": "look",
        "strip": strip,
        "worst": [(index, strip.rows[index][1]) for index in strip.worst],
        "chosen": strip.nearest(pairs[len(pairs) // 2].export_frame if asked is None else asked),
        "display": next(iter(displays)),
        "unit": difference_name(transfer if isinstance(transfer, int) else 0),
        "sides": {side: asdict(told) for side, told in sides_of(comparison).items()},
        "survey": comparison.survey,
    }


@require_GET
def around(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show both spheres from the inside, turning together."""
    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    if comparison is None:
        return waiting(request, attempt, place="look")
    context = _context(request, attempt, comparison)
    context |= {"view": "around", **played(comparison)}
    return render(request, "look/around.html", context)


@require_GET
def both_eyes(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show both eyes as anaglyph, one after the other, or as a difference."""
    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    if comparison is None:
        return waiting(request, attempt, place="look")
    form = ScreenForm()
    context = _context(request, attempt, comparison)
    context |= {
        "view": "eyes",
        "glasses": glasses(),
        "shifts": shifts_of(comparison),
        "form": form,
        **services.parallax_told(comparison, services.usual_screen()),
    }
    return render(request, "look/eyes.html", context)


@require_GET
def parallax(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show the parallax drawing for ?width, distance: a screen in metres."""
    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    if comparison is None:
        raise Http404
    form = ScreenForm(request.GET)
    screen = form.screen() if form.is_valid() else services.usual_screen()
    context = {"attempt": attempt, "form": form, **services.parallax_told(comparison, screen)}
    status = 200 if form.is_valid() else 422
    return render(request, "look/_parallax.html", context, status=status)


@require_POST
def keep_convergence(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Keep a shift of the eyes as the promise of every delivery of the title."""
    attempt = visible_attempt(request, attempt_id)
    form = ConvergenceForm(request.POST)
    if form.is_valid():
        count = services.keep_convergence(
            attempt.delivery.title, form.cleaned_data["shift"], by=request.user
        )
        messages.success(
            request,
            f"Convergence {form.cleaned_data['shift']:+.2f} % is promised in every delivery of "
            f"this title now ({count}); their attempts were judged by it.",
        )
    else:
        messages.error(request, "Choose a shift between -10 and 10 % of the width.")
    return redirect("look:eyes", attempt.pk)


@require_GET
@cache_control(private=True, max_age=3600)
def proxy(
    request: HttpRequest, attempt_id: int, first: int, display: str
) -> HttpResponse | FileResponse:
    """Send some seconds of both files from a frame on, the master's picture over the export's."""
    from ...core.rehearsed.proxy import proxy_pairs, proxy_step

    attempt = visible_attempt(request, attempt_id)
    comparison = drawn_comparison_of(attempt)
    if comparison is None:
        raise Http404
    rate = rate_of(comparison)
    pairs = proxy_pairs(frame_pairs(attempt), first, rate)
    if not pairs:
        raise Http404
    shown = rate / proxy_step(rate)
    return file_answer(lambda: stills.proxy(attempt, pairs, display, shown), "video/mp4")


@require_GET
@cache_control(private=True, max_age=3600)
def depth(
    request: HttpRequest, attempt_id: int, side: str, frame: int, stereo: str
) -> HttpResponse | FileResponse:
    """Send one frame's parallax as PNG (core, rehearsed/depth.py)."""
    attempt = visible_attempt(request, attempt_id)
    reel = attempt.delivery.title.master if side == "master" else attempt.reel
    return file_answer(lambda: stills.parallax(reel, frame, stereo))
