"""Shelf and Title pages, and bringing files in."""

from collections.abc import Iterable
from typing import Any
from urllib.parse import urlencode
from uuid import uuid4

from django.core.paginator import Paginator
from django.db import IntegrityError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from ...core.errors import CoreError, UsageError
from ..people.rights import may
from ..people.roles import ADD
from ..search.models import KeptSearch
from ..search.services import remarks_with
from ..work.models import Job
from ..work.services import latest_jobs
from . import finding, roots, rows, seen, services
from .finding import ShelfForm
from .forms import ExportForm, FileChoice, TitleForm
from .models import Attempt, Title
from .promise import is_silent, promise_families
from .uploads import write_failure

TITLES_A_PAGE, DELIVERIES_A_PAGE = 10, 50


@require_GET
def shelf(request: HttpRequest) -> HttpResponse:
    """Show every title with its deliveries and their verdicts."""
    form = ShelfForm(request.GET)
    titles = finding.found(Title.objects.visible_to(request.user), form).listed()
    page = Paginator(titles, TITLES_A_PAGE).get_page(request.GET.get("page"))
    words = str(form.cleaned_data.get("q") or "").split()
    said = remarks_with(words, [title.pk for title in page])
    listed = [(title, rows.held(title.deliveries.all())) for title in page]
    jobs = _jobs_of([one for _, held in listed for one in held])
    sections = rows.title_sections(listed, jobs, said, may_add=may(request.user, ADD))
    running, asked = _is_running(jobs), _asked(form)
    context = {"page": page, "sections": sections, "running": running, "asked": asked}
    part = request.htmx and request.GET.get("part") == "titles"  # type: ignore[attr-defined]
    if part:
        return render(request, "library/_shelf_titles.html", context)
    context |= {"verdicts": finding.VERDICTS, "since": finding.SINCE.items()}
    context |= finding.offered(request.user, form)
    context["searches"] = KeptSearch.objects.filter(by=request.user.pk)
    if not context["asked"]:
        context["seen"] = seen.last(request)
    return render(request, "library/shelf.html", context)


def _asked(form: ShelfForm) -> str:
    """Return the query of an address that asks for the same; empty where nothing is asked for."""
    return urlencode({name: value for name, value in form.cleaned_data.items() if value})


def _is_running(jobs: dict[int, Job]) -> bool:
    return any(not job.is_over for job in jobs.values())


def _jobs_of(held: Iterable[rows.Held]) -> dict[int, Job]:
    """Return the latest work of each attempt that has no judgement yet."""
    return latest_jobs(Attempt.WORK, rows.unjudged(held))


@require_GET
def title(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show one title: its master, its promise, its deliveries."""
    found = _title(request, title_id)
    page = Paginator(found.deliveries.all(), DELIVERIES_A_PAGE).get_page(request.GET.get("page"))
    held = rows.held(page)
    jobs = _jobs_of(held)
    shown = rows.delivery_rows(held, jobs)
    context = {"title": found, "page": page, "rows": shown, "running": _is_running(jobs)}
    if request.htmx and request.GET.get("part") == "deliveries":  # type: ignore[attr-defined]
        return render(request, "library/_deliveries.html", context)
    context |= {"families": promise_families(found), "is_silent": is_silent(found)}
    return render(request, "library/title.html", context)


def _title(request: HttpRequest, title_id: int) -> Title:
    visible = Title.objects.visible_to(request.user).with_deliveries()
    return get_object_or_404(visible, pk=title_id)


@require_http_methods(["GET", "POST"])
def add_title(request: HttpRequest) -> HttpResponse:
    """Bring in a master and make its title."""
    typed = {name: request.GET.get(name, "") for name in ("name", "note")}
    form = TitleForm(**_sent(request), initial={**typed, **_chosen(request)})
    if request.method == "POST":
        answer = _take(
            request,
            form,
            lambda data, root, path: services.create_title(
                data["name"], data["note"], root, path, by=request.user
            ),
        )
        if answer is not None:
            return answer
    return _file_page(request, "library/add_title.html", form, {})


@require_http_methods(["GET", "POST"])
def add_export(request: HttpRequest, title_id: int) -> HttpResponse:
    """Bring in an export for one of the title's deliveries."""
    found = _title(request, title_id)
    start = {"delivery": request.GET.get("delivery", ""), "sent_as": uuid4(), **_chosen(request)}
    form = ExportForm(**_sent(request), initial=start)
    if request.method == "POST":
        answer = _take(
            request,
            form,
            lambda data, root, path: services.add_attempt(
                found,
                data["delivery"],
                root,
                path,
                by=request.user,
                sent_as=data["sent_as"],
            ),
        )
        if answer is not None:
            return answer
    return _file_page(request, "library/add_export.html", form, {"title": found})


def _sent(request: HttpRequest) -> dict[str, Any]:
    if request.method != "POST":
        return {}
    return {"data": request.POST, "files": request.FILES}


def _chosen(request: HttpRequest) -> dict[str, str]:
    if not request.GET.get("file"):
        return {}
    return {"root": request.GET.get("root", ""), "path": request.GET["file"]}


def _take(request: HttpRequest, form: FileChoice, use: Any) -> HttpResponse | None:
    """Use the chosen or sent file; None where the form must be shown again with its error."""
    failure = request.META.get("shapkeen.upload_failure")
    if failure:
        form.add_error("upload", failure)
    if not form.is_valid():
        return None
    data = form.cleaned_data
    root, path = data["root"], data["path"]
    try:
        if data.get("upload"):
            root, path = services.take_upload(data["upload"])
        made = use(data, root, path)
    except (CoreError, OSError, IntegrityError) as error:
        if data.get("upload"):
            services.discard_upload(root, path)
        form.add_error(None, _why(error))
        return None
    if data.get("upload") and made.file_path != path:
        services.discard_upload(root, path)  # sent twice: the first one is kept
    answer: HttpResponse = redirect(made)
    if request.htmx:  # type: ignore[attr-defined]  # set by the htmx middleware
        answer = HttpResponse(headers={"HX-Redirect": answer["Location"]})
    return answer


def _why(error: CoreError | OSError | IntegrityError) -> str:
    """Return in words why a file was not brought in."""
    if isinstance(error, CoreError):
        return error.text
    if isinstance(error, OSError):
        return write_failure(error)
    return "Someone brought in the same just now. Look at the list before you send it again."


def _file_page(
    request: HttpRequest, template: str, form: FileChoice, more: dict[str, Any]
) -> HttpResponse:
    """Show a form beside the listing of the folder that is being looked into."""
    root = request.GET.get("root") or next(name for name in roots.roots() if name != "uploads")
    folder = request.GET.get("folder", "")
    try:
        listing = roots.listing(root, folder)
    except UsageError as error:
        listing = roots.Listing(())
        if not form.is_bound:
            more["listing_error"] = error.text
    context = {
        "form": form,
        "roots": list(roots.roots()),
        "root": root,
        "folder": folder,
        "parent": folder.rpartition("/")[0],
        "listing": listing,
        "query": _kept_query(request),
        **more,
    }
    bad = form.is_bound and not form.is_valid()
    return render(request, template, context, status=422 if bad else 200)


def _kept_query(request: HttpRequest) -> str:
    """Return what must stay in the address while folders are looked into."""
    kept = request.GET.copy()
    for key in ("root", "folder", "file", "part"):
        kept.pop(key, None)
    return f"&{kept.urlencode()}" if kept else ""


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Show that there is nothing at an address."""
    return render(request, "not_found.html", status=404)


def failed(request: HttpRequest) -> HttpResponse:
    """Show that a fault of ours happened; nothing is lost by it."""
    return render(request, "failed.html", status=500)
