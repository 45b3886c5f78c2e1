"""The house's webhooks, one with its calls, and what can be done to them."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from . import services
from .forms import HookForm
from .models import Call, Hook

CALLS_A_PAGE = 50


@require_http_methods(["GET", "POST"])
def hooks(request: HttpRequest) -> HttpResponse:
    """Show every webhook; POST makes one, and shows its secret this once."""
    form, made = HookForm(request.POST or None), None
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        made = services.make(data["name"], data["address"], data["acts"], by=request.user)
        form = HookForm()
    waiting = Count("calls", filter=Q(calls__state=Call.WAITING))
    lost = Count("calls", filter=Q(calls__state=Call.GIVEN_UP))
    rows = Hook.objects.annotate(waiting=waiting, lost=lost)
    context = {"hooks": rows, "form": form, "made": made, "told": services.TOLD.items()}
    status = 422 if request.method == "POST" and made is None else 200
    return render(request, "hooks/hooks.html", context, status=status)


@require_GET
def hook(request: HttpRequest, hook_id: int) -> HttpResponse:
    """Show one webhook with its calls, the newest first, and how each was answered."""
    found = get_object_or_404(Hook, pk=hook_id)
    page = Paginator(found.calls.all(), CALLS_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "hooks/hook.html", {"hook": found, "page": page})


@require_POST
def change(request: HttpRequest, hook_id: int) -> HttpResponse:
    """Stop telling a webhook, tell it again, or remove it."""
    found = get_object_or_404(Hook, pk=hook_id)
    act = request.POST.get("act")
    if act == "remove":
        services.remove(found, by=request.user)
        messages.success(request, f"The webhook {found.name} is removed.")
        return redirect("hooks:hooks")
    services.turn(found, "stopped by hand" if act == "stop" else "", by=request.user)
    return redirect(found)


@require_POST
def again(request: HttpRequest, hook_id: int, call_id: int) -> HttpResponse:
    """Send a call once more."""
    call = get_object_or_404(Call, pk=call_id, hook=hook_id)
    services.send_again(call)
    return redirect(call.hook)
