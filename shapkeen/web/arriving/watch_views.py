"""The page of a title's watched folders, with what one would take before it is made."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from ...core.errors import CoreError
from ..history.services import record
from ..library.models import Title
from . import watching
from .forms import WatchForm
from .models import Watch


def _title(request: HttpRequest, title_id: int) -> Title:
    return get_object_or_404(Title.objects.visible_to(request.user), pk=title_id)


@require_http_methods(["GET", "POST"])
def watches(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show a title's watched folders; take a new one."""
    title = _title(request, title_id)
    form = WatchForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        watch = form.save(commit=False)
        watch.title, watch.made_by = title, request.user
        watch.save()
        record("folder watched", title.place, by=request.user, after={"watch": str(watch)})
        messages.success(request, f"{watch} is watched: what settles there is measured.")
        return redirect("arriving:watches", title.pk)
    rows = title.watches.prefetch_related("files__attempt__delivery__title")
    context = {"title": title, "form": form, "watches": rows}
    status = 422 if form.errors else 200
    return render(request, "arriving/watches.html", context, status=status)


@require_POST
def preview(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show which files a watch would take now, and which lie there that it would not."""
    _title(request, title_id)
    form = WatchForm(request.POST)
    if not form.is_valid():
        errors = [f"{field}: {told[0]}" for field, told in form.errors.items()]
        return render(request, "arriving/_watch_preview.html", {"errors": errors})
    watch = form.save(commit=False)
    try:
        found = watching.files_of(watch)
        watch.pattern, watch.marker = "*", ""
        others = len(watching.files_of(watch)) - len(found)
    except CoreError as error:
        return render(request, "arriving/_watch_preview.html", {"errors": [error.text]})
    context = {"found": found, "others": others, "delivery": watch.delivery_name}
    return render(request, "arriving/_watch_preview.html", context)


@require_POST
def change(request: HttpRequest, watch_id: int) -> HttpResponse:
    """Pause a watch, go on with it, or end it; attempts stay."""
    titles = Title.objects.visible_to(request.user)
    watch = get_object_or_404(Watch.objects.filter(title__in=titles), pk=watch_id)
    act, title = request.POST.get("act"), watch.title
    if act == "end":
        record("folder watched no more", title.place, by=request.user, before={"watch": str(watch)})
        watch.delete()
    elif act in ("pause", "go-on"):
        watch.paused = act == "pause"
        watch.save(update_fields=["paused"])
    elif act == "again":
        watch.files.exclude(trouble="").update(trouble="")
    return redirect("arriving:watches", title.pk)
