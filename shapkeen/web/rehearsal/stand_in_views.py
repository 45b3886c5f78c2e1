"""Stand-ins: what each service is like, as a file to take away, and files of one's own."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_http_methods, require_safe

from ...core.errors import UsageError
from ...core.rehearsed.stand_in import stand_in_to_json
from . import stand_ins
from .forms import StandInForm


@require_http_methods(["GET", "POST"])
def listing(request: HttpRequest) -> HttpResponse:
    """Show every stand-in; keep one that comes as a file."""
    form = StandInForm(request.POST, request.FILES) if request.method == "POST" else StandInForm()
    if request.method == "POST" and form.is_valid():
        try:
            made = stand_ins.keep(form.cleaned_data["file"])
        except UsageError as error:
            form.add_error("file", f"{error.where}: {error.text}")
        else:
            messages.success(request, f"Kept: {made.name}, version {made.version}.")
            return redirect("rehearsal:stand-ins")
    context = {"services": stand_ins.current(), "form": form}
    status = 422 if form.errors else 200
    return render(request, "rehearsal/stand_ins.html", context, status=status)


@require_safe
def export(request: HttpRequest, key: str) -> HttpResponse:
    """Send a stand-in as a file."""
    found = stand_ins.find(key)
    if found is None:
        raise Http404
    answer = HttpResponse(stand_in_to_json(found), content_type="application/json")
    name = f"{found.key}-{found.version}.json"
    answer.headers["Content-Disposition"] = content_disposition_header(
        as_attachment=True, filename=name
    )
    return answer
