"""Who may ask for what: every address with the act that it is, checked before any page is made.

An address that stands in no row here is refused, so that a new page cannot be forgotten.
"""

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from ..arriving.models import Watch
from ..library.models import Attempt, Delivery, Reel, Title
from ..people.guests import Guest
from ..people.presence import note_presence
from ..people.rights import is_administrator, may, may_somewhere, titles_of
from ..people.roles import ACTS, ADD, ADMIN, SEE
from ..rehearsal.models import Rehearsal, Trial
from ..reports.models import KeptReport
from ..signoff.links import guest_for
from ..signoff.models import Remark, ReviewLink, Waiver
from ..versions.models import KeptRecipe
from ..work.models import Job
from .addresses import ADDRESSES, BRING, GUESTS, INSIDE, OPEN

Place = tuple[int | None, int | None]
"""Of a title and of an attempt, their numbers."""


def _of_attempt(attempt: Any) -> Place | None:
    return (attempt.delivery.title_id, attempt.pk) if attempt else None


def _attempt(number: int) -> Place | None:
    fields = "delivery__title_id", "pk"
    found: Place | None = Attempt.objects.filter(pk=number).values_list(*fields).first()
    return found


def _of_title(model: Any) -> Callable[[int], Place | None]:
    """Return a way to find the title of what belongs to one, and not to an attempt."""

    def find(number: int) -> Place | None:
        found = model.objects.filter(pk=number).values_list("title_id", flat=True).first()
        return (found, None) if found else None

    return find


def _report(number: int) -> Place | None:
    fields = "title_id", "attempt_id"
    found: Place | None = KeptReport.objects.filter(pk=number).values_list(*fields).first()
    return found


def _reel(number: int) -> Place | None:
    found = Reel.objects.with_context().filter(pk=number).first()
    if found is None:
        return None
    if hasattr(found, "title"):
        return found.title.pk, None
    return _of_attempt(getattr(found, "attempt", None))


def _through(model: Any, path: str = "attempt") -> Callable[[int], Place | None]:
    """Return a way to find the title of what belongs to an attempt."""

    def find(number: int) -> Place | None:
        fields = f"{path}__delivery__title_id", f"{path}_id"
        found: Place | None = model.objects.filter(pk=number).values_list(*fields).first()
        return found

    return find


def _job(user: Any) -> Callable[[int], Place | None]:
    def find(number: int) -> Place | None:
        job = Job.objects.filter(pk=number).first()
        subject = job.definition.find(user, job.subject_id) if job else None
        if subject is None:
            return None
        attempt = getattr(subject, "attempt", None) or subject
        if isinstance(attempt, Attempt):
            return _of_attempt(attempt)
        title = getattr(subject, "title", subject)
        return (title.pk, None) if isinstance(title, Title) else (None, None)

    return find


def _finders(user: Any) -> dict[str, Callable[[int], Place | None]]:
    return {
        "title_id": lambda number: (number, None),
        "delivery_id": _of_title(Delivery),
        "attempt_id": _attempt,
        "reel_id": _reel,
        "recipe_id": _of_title(KeptRecipe),
        "rehearsal_id": _through(Rehearsal),
        "trial_id": _through(Trial, "rehearsal__attempt"),
        "waiver_id": _through(Waiver),
        "link_id": _through(ReviewLink),
        "remark_id": _through(Remark),
        "watch_id": _of_title(Watch),
        "report_id": _report,
        "job_id": _job(user),
    }


class Guard:
    """Middleware: knows guests, and refuses what a person's role does not allow."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.title_id = None  # type: ignore[attr-defined]
        answer = self.get_response(request)
        note_presence(request)
        return answer

    def process_view(
        self, request: HttpRequest, _view: Any, _args: Any, kwargs: dict[str, Any]
    ) -> HttpResponse | None:
        """Return a refusal, None where the view may answer; raises Http404 for what is hidden."""
        name = request.resolver_match.view_name if request.resolver_match else ""
        acts = ADDRESSES.get(name)
        if acts is None:
            return refused(request, "This address is open to nobody.")
        act = acts[0] if request.method in ("GET", "HEAD", "OPTIONS") else acts[1]
        if act == OPEN:
            return None
        self._let_guest_in(request, name, kwargs)
        if not request.user.is_authenticated:
            return None  # who has to log in is sent there by Django's own middleware
        place = _place(request.user, kwargs)
        request.title_id = place[0]  # type: ignore[attr-defined]
        return _checked(request, act, place)

    @staticmethod
    def _let_guest_in(request: HttpRequest, name: str, kwargs: dict[str, Any]) -> None:
        """Take a browser that came by a review link for its guest, as far as the link goes."""
        user = request.user
        if name not in GUESTS or (user.is_authenticated and titles_of(user) is None):
            return
        finders = _finders(user)
        finder = next((key for key in finders if key in kwargs), None)
        if finder == "job_id":
            guest = guest_for(request, None)
        else:
            place = finders[finder](kwargs[finder]) if finder else None
            if place is None or place[0] in (titles_of(user) or set()):
                return
            guest = guest_for(request, place[1])
        if guest is not None and (finder != "job_id" or not user.is_authenticated):
            request.user = guest  # known for this request only, and at these addresses only


def _place(user: Any, kwargs: dict[str, Any]) -> Place:
    """Return what an address is about; raises Http404 where there is nothing."""
    for key, find in _finders(user).items():
        if key in kwargs:
            place = find(kwargs[key])
            if place is None:
                raise Http404
            return place
    return None, None


def _checked(request: HttpRequest, act: str, place: Place) -> HttpResponse | None:
    user, (title, attempt) = request.user, place
    if isinstance(user, Guest):
        if attempt != user.attempt_id:
            raise Http404
    elif title is not None:
        seen = titles_of(user)
        if seen is not None and title not in seen:
            raise Http404
    if act == INSIDE or (act == SEE and title is None) or may(user, act, title):
        return None
    if act == BRING:
        return None if may_somewhere(user, ADD) else _no_role(request, ADD)
    if act == ADMIN:
        return refused(request, "Only an administrator may do that.")
    return _no_role(request, act)


def _no_role(request: HttpRequest, act: str) -> HttpResponse:
    return refused(
        request, f"Your role does not let you {ACTS[act]}. Ask an administrator for one that does."
    )


def refused(request: HttpRequest, words: str) -> HttpResponse:
    """Return a page that says why something is not for this person."""
    return render(request, "refused.html", {"words": words}, status=403)


class May:
    """What a person may do on this page: `may.sign` in templates."""

    def __init__(self, request: HttpRequest) -> None:
        self.request = request

    def __getitem__(self, act: str) -> bool:
        """Return whether the act is allowed; raises KeyError for what is no act."""
        if act == ADMIN:
            return is_administrator(self.request.user)
        if act == BRING:
            return may_somewhere(self.request.user, ADD)
        if act not in ACTS:
            raise KeyError(act)
        return may(self.request.user, act, getattr(self.request, "title_id", None))


def rights(request: HttpRequest) -> dict[str, Any]:
    """Return what templates ask: what this person may do, and whether it is a guest."""
    user = getattr(request, "user", None)
    if user is None:
        return {}
    who = user.get_username() if user.is_authenticated else ""
    return {"may": May(request), "is_guest": isinstance(user, Guest), "who": who}
