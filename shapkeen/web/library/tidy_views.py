"""Pages that rename, move and put into the bin; the bin; and the history."""

from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ...core.errors import UsageError
from ..history.models import Event
from ..history.services import check_seals
from ..people.rights import may
from ..people.roles import TIDY
from . import tidying, undoing
from .access import visible_attempt, whole_number
from .forms import NameForm
from .models import Attempt, Delivery, Title
from .tidying import Subject

EVENTS_A_PAGE = 60


@require_http_methods(["GET", "POST"])
def tidy_title(request: HttpRequest, title_id: int) -> HttpResponse:
    """Rename a title, or put it into the bin."""
    visible = Title.objects.visible_to(request.user).select_related("master")
    return _tidy(request, get_object_or_404(visible, pk=title_id))


@require_http_methods(["GET", "POST"])
def tidy_delivery(request: HttpRequest, delivery_id: int) -> HttpResponse:
    """Rename a delivery, or put it into the bin."""
    visible = Delivery.objects.visible_to(request.user).select_related("title__master")
    return _tidy(request, get_object_or_404(visible, pk=delivery_id))


@require_http_methods(["GET", "POST"])
def tidy_attempt(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Move an attempt, rename its file, or put it into the bin."""
    return _tidy(request, visible_attempt(request, attempt_id))


def _tidy(request: HttpRequest, subject: Subject) -> HttpResponse:
    refusal, form = "", NameForm(request.POST or None, initial=_named(subject))
    if request.method == "POST":
        try:
            answer = _done(request, subject, form)
        except UsageError as error:
            answer, refusal = None, error.text
        if answer is not None:
            return answer
    context = {
        "subject": subject,
        "kind": type(subject).__name__.lower(),
        "form": form,
        "refusal": refusal,
        "goes": tidying.consequences_of(subject),
        "file": _file_of(subject),
        "others": _others(subject),
        "days": tidying.KEPT_DAYS,
    }
    bad = refusal or (request.method == "POST")
    return render(request, "library/tidy.html", context, status=422 if bad else 200)


def _named(subject: Subject) -> dict[str, str]:
    if isinstance(subject, Attempt):
        return {"name": ""}
    return {"name": subject.name, "note": getattr(subject, "note", "")}


def _file_of(subject: Subject) -> Any:
    """Return the file that can be renamed here: one that lies only here."""
    reel = {Title: "master", Attempt: "reel"}.get(type(subject))
    found = getattr(subject, reel) if reel else None
    return found if found is not None and found.root == tidying.HERE else None


def _others(subject: Subject) -> list[Delivery]:
    if not isinstance(subject, Attempt):
        return []
    rows = Delivery.objects.filter(title=subject.delivery.title_id, binned_at=None)
    return list(rows.exclude(pk=subject.delivery_id))


def _done(request: HttpRequest, subject: Subject, form: NameForm) -> HttpResponse | None:
    """Do what was asked for; None where the form must be shown again."""
    act, by = request.POST.get("act"), request.user
    if act == "bin":
        before = undoing.state_of("bin", subject)
        tidying.put_into_bin(subject, by=by)
        words = f"{subject} lies in the bin for {tidying.KEPT_DAYS} days."
        undoing.offer(request, words, "bin", subject, before)
        return redirect("library:shelf" if isinstance(subject, Title) else _above(subject))
    if act == "move" and isinstance(subject, Attempt):
        number = whole_number(request.POST.get("goal", "")) or 0
        goal = get_object_or_404(Delivery.objects.visible_to(by), pk=number)
        before = undoing.state_of("move", subject)
        tidying.move(subject, goal, by=by)
        words = "Moved, and judged by that delivery's promise."
        undoing.offer(request, words, "move", subject, before)
        return redirect(subject)
    if not form.is_valid():
        return None
    data = form.cleaned_data
    if act == "file" and (reel := _file_of(subject)) is not None:
        tidying.rename_file(reel, data["name"], subject.place, by=by)
        messages.success(request, "Renamed.")
    elif act == "rename" and not isinstance(subject, Attempt):
        note = data["note"] if isinstance(subject, Title) else None
        before = undoing.state_of("rename", subject)
        tidying.rename(subject, data["name"], note, by=by)
        undoing.offer(request, "Renamed.", "rename", subject, before)
    else:
        raise Http404
    return redirect(subject)


def _above(subject: Subject) -> Any:
    title = subject.delivery.title if isinstance(subject, Attempt) else subject.title  # type: ignore[union-attr]
    return title.get_absolute_url()


@require_GET
def bin_page(request: HttpRequest) -> HttpResponse:
    """Show what lies in the bin, as far as one may take it back."""
    mine = [one for one in tidying.in_bin() if may(request.user, TIDY, one.place.title_id)]
    rows = [(type(one).__name__.lower(), one, tidying.consequences_of(one)) for one in mine]
    return render(request, "library/bin.html", {"rows": rows, "days": tidying.KEPT_DAYS})


@require_POST
def take_back(request: HttpRequest) -> HttpResponse:
    """Take something out of the bin."""
    kind, number = request.POST.get("kind", ""), whole_number(request.POST.get("number", ""))
    if kind not in tidying.KINDS:
        raise Http404
    rows = tidying.KINDS[kind].objects.exclude(binned_at=None)
    subject = get_object_or_404(rows, pk=number or 0)
    if not may(request.user, TIDY, subject.place.title_id):
        raise Http404
    try:
        tidying.take_back(subject, by=request.user)
    except UsageError as error:
        messages.error(request, error.text)
        return redirect("library:bin")
    return redirect(subject)


@require_POST
def undo(request: HttpRequest, key: str) -> HttpResponse:
    """Undo what was done last, and go to what it was of."""
    try:
        subject = undoing.undo(request, key)
    except UsageError as error:
        messages.error(request, error.text)
        return redirect("library:shelf")
    if subject is None:
        messages.error(request, "That can be undone no more.")
        return redirect("library:shelf")
    messages.success(request, "Undone: it is as it was.")
    return redirect(subject)


@require_POST
def empty_bin(request: HttpRequest) -> HttpResponse:
    """Delete for good all that lies in the bin."""
    gone = tidying.empty(by=request.user)
    messages.success(request, f"The bin is empty: {gone} gone for good.")
    return redirect("library:bin")


@require_GET
def history(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show all that was done of a title."""
    title = get_object_or_404(Title.objects.visible_to(request.user), pk=title_id)
    return _history(request, Event.objects.of_title(title_id), {"title": title})


@require_GET
def house_history(request: HttpRequest) -> HttpResponse:
    """Show all that was done, of every title and account."""
    return _history(request, Event.objects.all(), {})


def _history(request: HttpRequest, events: Any, context: dict[str, Any]) -> HttpResponse:
    page = Paginator(events, EVENTS_A_PAGE).get_page(request.GET.get("page"))
    seals = check_seals() if page.number == 1 else None
    return render(request, "library/history.html", {"page": page, "seals": seals, **context})
