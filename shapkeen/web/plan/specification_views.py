"""Delivery specifications: list, view, copy, edit, import and export."""

from dataclasses import replace

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ...core.errors import UsageError
from ...core.promised.specification import Specification, specification_to_json
from ...core.promised.specification_fields import (
    fields_of_specification,
    specification_from_fields,
)
from . import specifications as kept
from .forms import ImportForm, SpecificationForm
from .words import specification_lines, specification_summary


def _found(key: str, version: int | None = None) -> Specification:
    spec = kept.find(key, version)
    if spec is None:
        raise Http404
    return spec


@require_GET
def specifications(request: HttpRequest) -> HttpResponse:
    """Show every specification in its newest version."""
    rows = [(spec, specification_summary(spec)) for spec in kept.current()]
    return render(request, "plan/specifications.html", {"rows": rows, "form": ImportForm()})


@require_GET
def specification(request: HttpRequest, key: str, version: int | None = None) -> HttpResponse:
    """Show one specification, in its newest version unless another is asked for."""
    spec = _found(key, version)
    context = {
        "specification": spec,
        "lines": specification_lines(spec),
        "versions": [one.version for one in kept.versions()[key]],
        "text": specification_to_json(spec),
    }
    return render(request, "plan/specification.html", context)


@require_http_methods(["GET", "POST"])
def edit_specification(request: HttpRequest, key: str) -> HttpResponse:
    """Change a specification; what is saved becomes its next version."""
    spec = _found(key)
    start = {**fields_of_specification(spec), "after": spec.version}
    form = SpecificationForm(request.POST if request.method == "POST" else None, initial=start)
    if request.method == "POST" and form.is_valid():
        after = form.cleaned_data["after"]
        try:
            made = specification_from_fields(form.cleaned_data, key=key, version=after + 1)
            saved = kept.save_next(made, after=after)
        except UsageError as error:
            form.add_error(error.where if error.where in form.fields else None, error.text)
        else:
            messages.success(request, f"Saved as version {saved.version}.")
            return redirect("plan:specification", key)
    context = {"specification": spec, "form": form}
    status = 422 if form.errors else 200
    return render(request, "plan/edit_specification.html", context, status=status)


@require_POST
def copy_specification(request: HttpRequest, key: str) -> HttpResponse:
    """Make a copy under a key of its own, and open it for editing."""
    spec = _found(key)
    made = replace(spec, key=kept.free_key(key), name=f"{spec.name}, copy"[:80], version=1)
    try:
        kept.take_new(made)
    except UsageError as error:
        messages.error(request, error.text)
        return redirect("plan:specification", key)
    return redirect("plan:edit", made.key)


@require_POST
def import_specification(request: HttpRequest) -> HttpResponse:
    """Take a specification file that was sent."""
    form = ImportForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            made = kept.take_new(form.cleaned_data["specification"])
        except UsageError as error:
            form.add_error("file", error.text)
        else:
            messages.success(request, f"{made.name}, version {made.version}, was taken in.")
            return redirect("plan:specification", made.key)
    rows = [(spec, specification_summary(spec)) for spec in kept.current()]
    context = {"rows": rows, "form": form}
    return render(request, "plan/specifications.html", context, status=422)


@require_GET
def export_specification(request: HttpRequest, key: str, version: int) -> HttpResponse:
    """Send a specification as its file."""
    spec = _found(key, version)
    answer = HttpResponse(specification_to_json(spec), content_type="application/json")
    name = f"{spec.key}.v{spec.version}.json"
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
