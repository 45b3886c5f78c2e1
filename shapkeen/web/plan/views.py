"""The Plan page of one title and one specification."""

from contextlib import suppress
from typing import Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST
from django.views.decorators.vary import vary_on_headers
from django_htmx.http import reswap, retarget

from ...core.errors import CoreError, UsageError
from ...core.promised.planning import Subject
from ...core.promised.specification import Specification, specification_from_json
from ..library.access import whole_number
from ..library.models import Delivery, Title
from ..look import stills
from . import services, specifications
from .forms import KeepForm
from .models import KeptPlan
from .page import display_of, moment_of, shown_plan


def _title(request: HttpRequest, title_id: int) -> Title:
    visible = Title.objects.visible_to(request.user).with_deliveries()
    return get_object_or_404(visible, pk=title_id)


def _specification(sent: QueryDict) -> Specification | None:
    """Return the specification that a request names, in the version it names."""
    number = whole_number(sent.get("version", ""))
    return specifications.find(sent.get("specification", ""), number)


@require_GET
@vary_on_headers("HX-Request")
def plan(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show the plan that the address asks for; to htmx, only what changes with the choices."""
    title = _title(request, title_id)
    kept = _kept(request, title)
    known = specifications.current()
    spec = _specification(request.GET)
    if spec is None and kept is not None:
        spec = specification_from_json(kept.specification)
    if spec is None and request.GET.get("specification"):
        raise Http404
    spec = spec or _likely(title, known)
    context: dict[str, Any] = {"title": title, "known": known, "specification": spec, "kept": kept}
    context["delivery_name"] = kept.delivery.name if kept else spec.name
    chosen = bool(set(request.GET) & {*services.CHOICES, *services.SHOT_FIELDS})
    fields = kept.fields if kept and not chosen else services.fields_of(request.GET)
    try:
        subject = services.subject_of_title(title)
        context |= _planned(request, title, subject, spec, fields)
    except UsageError as error:
        context["error"] = error.text
        if request.htmx:  # type: ignore[attr-defined]
            return _slip(request, context)
        # The other fields stay as they were asked for.
        others = {name: value for name, value in fields.items() if name != error.where}
        with suppress(UsageError):
            context |= _planned(request, title, services.subject_of_title(title), spec, others)
    part = request.htmx and request.GET.get("part") == "plan"  # type: ignore[attr-defined]
    status = 422 if "error" in context and chosen else 200
    return render(request, "plan/_plan.html" if part else "plan/plan.html", context, status=status)


def _slip(request: HttpRequest, context: dict[str, Any]) -> HttpResponse:
    """Show what is wrong with a field beside the form, and leave all that was typed as it is."""
    answer = render(request, "plan/_error.html", context, status=422)
    retarget(answer, "#plan-error")
    return reswap(answer, "innerHTML")


def _likely(title: Title, known: list[Specification]) -> Specification:
    """Return the specification of one of the title's deliveries, else the first."""
    names = {delivery.name for delivery in title.deliveries.all()}
    return next((spec for spec in known if spec.name in names), known[0])


def _kept(request: HttpRequest, title: Title) -> KeptPlan | None:
    """Return the kept plan of the delivery that is asked for, unless another is being made."""
    asked = whole_number(request.GET.get("delivery", ""))
    found = KeptPlan.objects.select_related("delivery")
    return found.filter(delivery__title=title, delivery=asked).first()


def _planned(
    request: HttpRequest,
    title: Title,
    subject: Subject,
    spec: Specification,
    fields: dict[str, Any],
) -> dict[str, Any]:
    """Return the context of a plan, a shot added at the shown moment where that is asked for."""
    frame = moment_of(subject, request.GET.get("frame", ""))
    made = services.plan_of(subject, spec, fields)
    if "add" in request.GET:
        made = services.with_shot_at(made, frame)
    return shown_plan(title, made, frame)


@require_GET
def plans(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show all kept plans of a title beside each other."""
    title = _title(request, title_id)
    context: dict[str, Any] = {"title": title}
    try:
        context["plans"] = services.kept_plans(title)
    except UsageError as error:
        context["error"] = error.text
    return render(request, "plan/plans.html", context)


@require_POST
def keep(request: HttpRequest, title_id: int) -> HttpResponse:
    """Keep a plan with a delivery, whose promise it becomes."""
    title, spec = _title(request, title_id), _specification(request.POST)
    form = KeepForm(request.POST)
    if spec is None:
        raise Http404
    sent = request.POST.copy()
    for name in ("csrfmiddlewaretoken", "delivery_name"):
        sent.pop(name, None)
    again = f"{reverse('plan:plan', args=[title.pk])}?{sent.urlencode()}"
    if not form.is_valid():
        messages.error(request, "The plan was not kept: name the delivery.")
        return redirect(again)
    try:
        fields = services.fields_of(request.POST)
        made = services.plan_of(services.subject_of_title(title), spec, fields)
        name = form.cleaned_data["delivery_name"]
        delivery = services.keep_plan(title, name, made, fields, by=request.user)
    except UsageError as error:
        messages.error(request, f"The plan was not kept. {error.text}")
        return redirect(again)
    messages.success(
        request,
        f"The plan is kept with {delivery.name}: its promise follows it, and what comes back is "
        "held against the settings sheet.",
    )
    return redirect("plan:sheet", delivery.pk)


@require_POST
def speed(request: HttpRequest, title_id: int) -> HttpResponse:
    """Measure how fast this machine encodes, and show the plan again with the time it will take."""
    title, spec = _title(request, title_id), _specification(request.POST)
    if spec is None:
        raise Http404
    context: dict[str, Any] = {"title": title, "specification": spec}
    try:
        subject = services.subject_of_title(title)
        fields = services.fields_of(request.POST)
        services.measure_encoding(title, services.plan_of(subject, spec, fields))
        made = services.plan_of(subject, spec, fields)
        context |= shown_plan(title, made, moment_of(subject, request.POST.get("frame", "")))
    except CoreError as error:
        context |= {"error": error.text}
    context["delivery_name"] = request.POST.get("delivery_name", spec.name)
    return render(request, "plan/_plan.html", context, status=422 if "error" in context else 200)


@require_GET
@cache_control(private=True, max_age=3600)
def still(request: HttpRequest, title_id: int, frame: int) -> HttpResponse | FileResponse:
    """Send one frame of the master as PNG."""
    title = _title(request, title_id)
    try:
        display = display_of(services.subject_of_title(title))
        file = stills.still(title.master, frame, display)
    except CoreError as error:
        return HttpResponse(error.text, status=422, content_type="text/plain; charset=utf-8")
    return FileResponse(file, content_type="image/png")


@require_GET
def sheet(request: HttpRequest, delivery_id: int) -> HttpResponse:
    """Show the settings sheet of a delivery, to be printed or copied."""
    visible = Delivery.objects.visible_to(request.user)
    delivery = get_object_or_404(visible.select_related("title", "kept_plan"), pk=delivery_id)
    kept = getattr(delivery, "kept_plan", None)
    if kept is None:
        raise Http404
    context = {"delivery": delivery, "kept": kept, "sheet": kept.settings_sheet}
    return render(request, "plan/sheet.html", context)
