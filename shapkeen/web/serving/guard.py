"""Who may ask for what: every address with the act that it is, checked before any page is made.

An address that stands in no row here is refused, so that a new page cannot be forgotten.
"""

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any, Final

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from ..library.models import Attempt, Delivery, Reel, Title
from ..people.guests import Guest
from ..people.presence import note_presence
from ..people.rights import is_administrator, may, titles_of
from ..people.roles import (
    ACTS,
    ADD,
    ADMIN,
    ARCHIVE,
    HOUSE,
    MAKE,
    PROMISE,
    REMARK,
    SEE,
    SHARE,
    SIGN,
    TIDY,
    WAIVE,
)
from ..rehearsal.models import Rehearsal, Trial
from ..reports.models import KeptReport
from ..signoff.links import guest_for
from ..signoff.models import Remark, ReviewLink, Waiver
from ..versions.models import KeptRecipe
from ..work.models import Job

OPEN: Final = "open"
"""For everybody, logged in or not."""
INSIDE: Final = "inside"
"""For everybody with an account."""

ADDRESSES: Final[Mapping[str, tuple[str, str]]] = MappingProxyType(
    {
        # address → act of looking (GET), act of doing (POST)
        "login": (OPEN, OPEN),
        "first-account": (OPEN, OPEN),
        "logout": (OPEN, OPEN),
        "work:alive": (OPEN, OPEN),
        "signoff:review": (OPEN, OPEN),
        "accounts:own": (INSIDE, INSIDE),
        "accounts:password": (INSIDE, INSIDE),
        "accounts:end-session": (INSIDE, INSIDE),
        "accounts:people": (ADMIN, ADMIN),
        "accounts:add": (ADMIN, ADMIN),
        "accounts:change": (ADMIN, ADMIN),
        "library:shelf": (SEE, SEE),
        "library:title": (SEE, SEE),
        "library:history": (SEE, SEE),
        "library:house-history": (ADMIN, ADMIN),
        "library:add-title": (ADD, ADD),
        "library:add-export": (ADD, ADD),
        "library:delivery-promise": (SEE, PROMISE),
        "library:tidy-title": (TIDY, TIDY),
        "library:tidy-delivery": (TIDY, TIDY),
        "library:tidy-attempt": (TIDY, TIDY),
        "library:bin": (SEE, SEE),
        "library:take-back": (SEE, SEE),
        "library:empty-bin": (ADMIN, ADMIN),
        "work:progress": (SEE, SEE),
        "work:stop": (MAKE, MAKE),
        "work:again": (MAKE, MAKE),
        "bench:silence": (SEE, PROMISE),
        "bench:bench": (SEE, SEE),
        "bench:measure": (ADD, ADD),
        "bench:cure": (MAKE, MAKE),
        "bench:table": (SEE, SEE),
        "bench:take-table": (MAKE, MAKE),
        "bench:ready": (SEE, SEE),
        "bench:trait": (SEE, SEE),
        "bench:tags": (SEE, MAKE),
        "bench:file": (SEE, SEE),
        "bench:differ": (SEE, SEE),
        "bench:promise-preview": (SEE, SEE),
        "look:look": (SEE, SEE),
        "look:still": (SEE, SEE),
        "look:difference": (SEE, SEE),
        "look:pair": (SEE, SEE),
        "look:poster": (SEE, SEE),
        "look:band": (SEE, SEE),
        "look:around": (SEE, SEE),
        "look:eyes": (SEE, SEE),
        "look:parallax": (SEE, SEE),
        "look:keep-convergence": (PROMISE, PROMISE),
        "look:proxy": (SEE, SEE),
        "look:depth": (SEE, SEE),
        "look:probe": (SEE, SEE),
        "plan:plan": (SEE, SEE),
        "plan:plans": (SEE, SEE),
        "plan:keep": (PROMISE, PROMISE),
        "plan:speed": (MAKE, MAKE),
        "plan:still": (SEE, SEE),
        "plan:sheet": (SEE, SEE),
        "plan:specifications": (SEE, SEE),
        "plan:import": (HOUSE, HOUSE),
        "plan:specification": (SEE, SEE),
        "plan:version": (SEE, SEE),
        "plan:export": (SEE, SEE),
        "plan:edit": (HOUSE, HOUSE),
        "plan:copy": (HOUSE, HOUSE),
        "versions:versions": (SEE, SEE),
        "versions:make": (MAKE, MAKE),
        "versions:pause": (MAKE, MAKE),
        "versions:go-on": (MAKE, MAKE),
        "versions:order": (MAKE, MAKE),
        "versions:new": (MAKE, MAKE),
        "versions:import": (MAKE, MAKE),
        "versions:from-plan": (MAKE, MAKE),
        "versions:recipe": (SEE, MAKE),
        "versions:export": (SEE, SEE),
        "rehearsal:rehearse": (SEE, MAKE),
        "rehearsal:rehearsal": (SEE, SEE),
        "rehearsal:again": (MAKE, MAKE),
        "rehearsal:look": (SEE, SEE),
        "rehearsal:still": (SEE, SEE),
        "rehearsal:pair": (SEE, SEE),
        "rehearsal:what-if": (MAKE, MAKE),
        "rehearsal:cost": (SEE, SEE),
        "rehearsal:trial-picture": (SEE, SEE),
        "rehearsal:stand-ins": (SEE, HOUSE),
        "rehearsal:stand-in": (SEE, SEE),
        "signoff:signoff": (SEE, SEE),
        "signoff:sign": (SIGN, SIGN),
        "signoff:waive": (WAIVE, WAIVE),
        "signoff:unwaive": (WAIVE, WAIVE),
        "signoff:make-link": (SHARE, SHARE),
        "signoff:end-link": (SHARE, SHARE),
        "signoff:remarks": (SEE, SEE),
        "signoff:say": (REMARK, REMARK),
        "signoff:remarks-csv": (SEE, SEE),
        "signoff:answer": (REMARK, REMARK),
        "signoff:close": (REMARK, REMARK),
        "reports:ask": (SEE, SEE),
        "reports:ask-title": (SEE, SEE),
        "reports:report": (SEE, SEE),
        "reports:file": (SEE, SEE),
        "archive:listing": (ARCHIVE, ARCHIVE),
        "archive:estimate": (ARCHIVE, ARCHIVE),
        "archive:archive": (ARCHIVE, ARCHIVE),
        "archive:verify": (ARCHIVE, ARCHIVE),
        "archive:disk-use": (SEE, SEE),
    }
)

GUESTS: Final = frozenset(
    {
        *("bench:bench", "bench:ready", "bench:trait", "work:progress"),
        *("look:look", "look:still", "look:difference", "look:around", "look:eyes"),
        *("look:parallax", "look:proxy", "look:depth", "look:probe"),
        *("look:pair", "look:band"),
        *("signoff:signoff", "signoff:sign", "signoff:remarks", "signoff:say"),
        *("signoff:remarks-csv", "signoff:answer", "signoff:close"),
    }
)
"""All that a review link opens, and of one attempt only."""

Place = tuple[int | None, int | None]
"""Of a title and of an attempt, their numbers."""


def _of_attempt(attempt: Any) -> Place | None:
    return (attempt.delivery.title_id, attempt.pk) if attempt else None


def _attempt(number: int) -> Place | None:
    return _of_attempt(Attempt.objects.select_related("delivery").filter(pk=number).first())


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
    if act == ADMIN:
        return refused(request, "Only an administrator may do that.")
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
