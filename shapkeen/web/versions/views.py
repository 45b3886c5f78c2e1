"""Recipes of a title, and the versions that are made by them."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from django.views.decorators.vary import vary_on_headers

from ...core.errors import UsageError
from ..library.access import whole_number
from ..library.models import Delivery, Title
from . import queue, services
from .forms import ImportForm, NewRecipeForm, RecipeForm
from .models import KeptRecipe


def _title(request: HttpRequest, title_id: int) -> Title:
    visible = Title.objects.visible_to(request.user).select_related("master")
    return get_object_or_404(visible, pk=title_id)


@require_GET
@vary_on_headers("HX-Request")
def versions(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show the recipes of a title and what became of them; to htmx, the list alone."""
    title = _title(request, title_id)
    rows = queue.rows_of(title)
    context = {
        "title": title,
        "rows": rows,
        "running": any(row.is_open for row in rows),
        "standing": queue.standing_of(rows),
        "paused": any(row.is_paused for row in rows),
        "choosable": any(not row.refusal and not row.is_running for row in rows),
        "plans": title.deliveries.exclude(kept_plan=None),
        "form": ImportForm(),
    }
    part = request.htmx and request.GET.get("part") == "list"  # type: ignore[attr-defined]
    return render(request, "versions/_list.html" if part else "versions/versions.html", context)


@require_POST
def make(request: HttpRequest, title_id: int) -> HttpResponse:
    """Have the chosen recipes made, in one go."""
    title = _title(request, title_id)
    chosen = [whole_number(text) for text in request.POST.getlist("recipe")]
    try:
        queue.ask(title, [number for number in chosen if number], by=request.user)
    except UsageError as error:
        messages.error(request, error.text)
    return redirect("versions:versions", title.pk)


@require_POST
def pause(request: HttpRequest, title_id: int) -> HttpResponse:
    """Stop all that is made of a title; what is finished is kept."""
    title = _title(request, title_id)
    if count := queue.pause(title):
        told = "version is" if count == 1 else "versions are"
        messages.success(request, f"{count} {told} paused; what is finished of them is kept.")
    return redirect("versions:versions", title.pk)


@require_POST
def go_on(request: HttpRequest, title_id: int) -> HttpResponse:
    """Go on with what was paused, or failed."""
    title = _title(request, title_id)
    queue.go_on(title, by=request.user)
    return redirect("versions:versions", title.pk)


@require_POST
def put_in_order(request: HttpRequest, title_id: int) -> HttpResponse:
    """Put recipes into the order in which they are listed and made."""
    title = _title(request, title_id)
    numbers = [whole_number(text) for text in request.POST.getlist("place")]
    queue.rearrange(title, [number for number in numbers if number])
    return redirect(f"{reverse('versions:versions', args=[title.pk])}?part=list")


@require_POST
def import_recipe(request: HttpRequest, title_id: int) -> HttpResponse:
    """Keep a recipe that came as a file."""
    title = _title(request, title_id)
    form = ImportForm(request.POST, request.FILES)
    if not form.is_valid():
        faults = [str(fault) for fault in form.errors.get("file", [])]
        messages.error(request, " ".join(faults) or "Choose a file.")
        return redirect("versions:versions", title.pk)
    return _kept(request, title, form.cleaned_data["file"])


@require_http_methods(["GET", "POST"])
def new_recipe(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show a recipe to fill in; what is kept can be made at once."""
    title = _title(request, title_id)
    is_sent = request.method == "POST"
    form = NewRecipeForm(request.POST if is_sent else None, request.FILES if is_sent else None)
    if request.method == "POST" and form.is_valid():
        try:
            kept = services.keep_filled(title, form.values(), by=request.user)
        except UsageError as error:
            known = error.where in form.fields
            form.add_error(error.where if known else None, error.text if known else _told(error))
        else:
            messages.success(request, f"Kept: {kept}. Choose it below to have it made.")
            return redirect("versions:versions", title.pk)
    status = 422 if form.errors else 200
    return render(request, "versions/new.html", {"title": title, "form": form}, status=status)


def _kept(request: HttpRequest, title: Title, text: str) -> HttpResponse:
    try:
        kept = services.keep_recipe(title, text, by=request.user)
    except UsageError as error:
        messages.error(request, f"The recipe was not kept. {_told(error)}")
        return redirect("versions:versions", title.pk)
    messages.success(request, f"Kept: {kept}.")
    return redirect("versions:versions", title.pk)


def _told(error: UsageError) -> str:
    return f"{error.where}: {error.text}" if error.where else error.text


@require_POST
def from_plan(request: HttpRequest, delivery_id: int) -> HttpResponse:
    """Make a recipe of a delivery's kept plan."""
    visible = Delivery.objects.visible_to(request.user)
    delivery = get_object_or_404(
        visible.select_related("title__master", "kept_plan"), pk=delivery_id
    )
    if getattr(delivery, "kept_plan", None) is None:
        raise Http404
    try:
        kept = services.keep_plan_as_recipe(delivery, by=request.user)
        messages.success(request, f"Kept: {kept}. Choose it below to have it made.")
    except UsageError as error:
        messages.error(request, f"No recipe was made of this plan. {_told(error)}")
    return redirect("versions:versions", delivery.title_id)


@require_http_methods(["GET", "POST"])
def recipe(request: HttpRequest, recipe_id: int) -> HttpResponse:
    """Show one recipe; what is changed becomes its next version."""
    visible = KeptRecipe.objects.visible_to(request.user).select_related("title__master")
    kept = get_object_or_404(visible, pk=recipe_id)
    sent = request.POST if request.method == "POST" else None
    form = RecipeForm(sent, initial={"text": kept.text})
    if request.method == "POST" and form.is_valid():
        try:
            made = services.keep_recipe(kept.title, form.cleaned_data["text"], by=request.user)
        except UsageError as error:
            form.add_error("text", _told(error))
        else:
            messages.success(request, f"Kept: {made}.")
            return redirect(made)
    versions = kept.title.recipes.filter(name=kept.name).order_by("-version")
    words, refusal = services.words_of(kept.title, kept.recipe)
    context = {
        "kept": kept,
        "form": form,
        "versions": versions,
        "words": words,
        "refusal": refusal,
    }
    return render(request, "versions/recipe.html", context, status=422 if form.errors else 200)


@require_GET
def export_recipe(request: HttpRequest, recipe_id: int) -> HttpResponse:
    """Send a recipe as a file."""
    kept = get_object_or_404(KeptRecipe.objects.visible_to(request.user), pk=recipe_id)
    answer = HttpResponse(kept.text, content_type="application/json")
    name = f"{kept.name}-{kept.version}.json"
    answer.headers["Content-Disposition"] = content_disposition_header(
        as_attachment=True, filename=name
    )
    return answer
