"""What if it were sent otherwise: asking, what it costs, and the pictures."""

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from ...core.errors import UsageError
from ...core.rehearsed.what_if import variants_of
from ..look.answers import file_answer
from . import page, services, stills
from .models import Rehearsal, Trial
from .views import visible_rehearsal


@require_GET
def cost(request: HttpRequest, rehearsal_id: int) -> HttpResponse:
    """Show how many ways a question asks for, and how long trying them takes."""
    found = visible_rehearsal(request, rehearsal_id)
    form = page.question_form(found, request.GET)
    context: dict[str, object] = {}
    if form.is_valid():
        try:
            question = form.question()
            raster = services.raster_of(found.attempt)
            context = {
                "count": len(variants_of(question, raster)),
                "seconds": services.estimate(found, question),
            }
        except UsageError as error:
            context = {"error": error.text}
    else:
        context = {
            "error": " ".join(str(fault) for faults in form.errors.values() for fault in faults)
        }
    return render(request, "rehearsal/_cost.html", context)


@require_POST
def ask(request: HttpRequest, rehearsal_id: int) -> HttpResponse:
    """Have ways of sending tried."""
    found = visible_rehearsal(request, rehearsal_id)
    form = page.question_form(found, request.POST)
    if not form.is_valid():
        for faults in form.errors.values():
            messages.error(request, " ".join(map(str, faults)))
        return redirect(f"{found.get_absolute_url()}#what-if")
    try:
        services.ask_what_if(found, form.question())
    except UsageError as error:
        messages.error(request, error.text)
    return redirect(f"{found.get_absolute_url()}#what-if")


@require_GET
@cache_control(private=True, max_age=3600)
def picture(request: HttpRequest, trial_id: int, place: int) -> HttpResponse | FileResponse:
    """Send a part of one way's picture, sample for sample as its screen shows it, as PNG."""
    visible = Rehearsal.objects.visible_to(request.user)
    trial = get_object_or_404(Trial.objects.filter(rehearsal__in=visible), pk=trial_id)
    if place >= len(trial.outcomes):
        raise Http404
    return file_answer(lambda: stills.trial_picture(trial, place))
