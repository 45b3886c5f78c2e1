"""Archives: what would go in, writing, verifying; and what titles take on the disks."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ...core.errors import UsageError
from ..library.models import Title
from ..people.rights import may
from ..people.roles import ARCHIVE
from ..work.models import Job
from . import collecting, services
from .forms import ArchiveForm, ChoiceForm
from .models import Archive


@require_http_methods(["GET", "POST"])
def listing(request: HttpRequest) -> HttpResponse:
    """Show archives and what a new one would hold; POST has one written."""
    form = ArchiveForm(request.user, request.POST or None)
    refusal = ""
    if request.method == "POST" and form.is_valid():
        choices = form.choices()
        if not all(may(request.user, ARCHIVE, title) for title in choices["titles"]):
            refusal = "Your role does not let you archive all of these titles."
        else:
            try:
                return redirect(services.ask(form.cleaned_data["name"], choices, by=request.user))
            except UsageError as error:
                refusal = error.text
    context: dict[str, Any] = {
        "form": form,
        "refusal": refusal,
        "archives": [one for one in Archive.objects.all() if _visible(request, one)],
        "titles": Title.objects.visible_to(request.user),
        "name": request.POST.get("name", ""),
    }
    # Titles may be chosen by the address, as the Shelf does.
    choice = form if form.is_bound else ChoiceForm(request.user, request.GET)
    context |= _estimate(choice)
    status = 422 if request.method == "POST" else 200
    return render(request, "archive/listing.html", context, status=status)


def _visible(request: HttpRequest, archive: Archive) -> bool:
    return services.find_archive(request.user, archive.pk) is not None


@require_GET
def estimate(request: HttpRequest) -> HttpResponse:
    """Show what an archive of the chosen titles would take."""
    form = ChoiceForm(request.user, request.GET)
    return render(request, "archive/_estimate.html", _estimate(form))


def _estimate(form: ChoiceForm) -> dict[str, Any]:
    """Return what would go in, what is left out, and what could be saved."""
    form.is_valid()
    data = form.cleaned_data
    titles = list(data.get("titles") or [])
    if not titles:
        return {"chosen": [], "suggested": ""}
    choices = {name: bool(data.get(name)) for name in ("masters", "unsigned", "reports", "tables")}
    parts = collecting.parts_of(titles, choices)
    goes = [part for part in parts if not part.why]
    day = f"{timezone.now():%Y-%m-%d}"
    reports = sum(part.kind == "export" for part in goes) if choices["reports"] else 0
    return {
        "reports": reports,
        "of_reports": reports * collecting.REPORT_BYTES,
        "chosen": titles,
        "goes": goes,
        "left": [part for part in parts if part.why],
        "total": sum(part.size_bytes for part in goes) + reports * collecting.REPORT_BYTES,
        "spared": sum(part.size_bytes for part in parts if part.why),
        "savings": collecting.savings(titles) if choices["masters"] else [],
        "suggested": collecting.suggested_name(titles, day),
    }


@require_GET
def archive(request: HttpRequest, archive_id: int) -> HttpResponse:
    """Show one archive: being written, or written and verified."""
    found = _found(request, archive_id)
    kind = services.VERIFY if found.written_at else services.WRITE
    job = Job.objects.latest_of(kind, found.pk)
    is_open = job is not None and (not job.is_over or job.state != Job.State.DONE)
    context = {"archive": found, "job": job if is_open else None}
    return render(request, "archive/archive.html", context)


def _found(request: HttpRequest, archive_id: int) -> Archive:
    found = services.find_archive(request.user, archive_id)
    return found or get_object_or_404(Archive.objects.none())


@require_POST
def verify(request: HttpRequest, archive_id: int) -> HttpResponse:
    """Have an archive verified again."""
    found = _found(request, archive_id)
    services.verify(found)
    return redirect(found)


@require_GET
def disk_use(request: HttpRequest) -> HttpResponse:
    """Show what each title takes on the disks."""
    rows = services.disk_use(request.user)
    return render(request, "archive/disk_use.html", {"rows": rows})
