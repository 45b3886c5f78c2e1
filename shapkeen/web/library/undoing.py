"""Undoing what was done last: each deed that can be undone is offered with the words that tell it.

A session holds how things were before and after. A deed is undone only while things still are as
it left them: what somebody else changed since stays.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import uuid4

from django.contrib import messages
from django.http import HttpRequest

from ...core.errors import UsageError
from ..people.rights import may
from ..people.roles import PROMISE, TIDY
from . import services, tidying
from .models import Delivery, Title
from .tidying import Subject

HELD, MOST = "undo", 12
Told = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Deed:
    """One kind of deed. act: what its undoing needs the right for.

    now: how a subject is, as the session holds it. put: makes it as it was, by somebody; raises
    UsageError where that cannot be.
    """

    act: str
    now: Callable[[Any], Any]
    put: Callable[[Any, Any, Any], None]


def _back(subject: Any, _was: Any, by: Any) -> None:
    tidying.take_back(subject, by=by)


def _rename(subject: Any, was: Any, by: Any) -> None:
    tidying.rename(subject, was["name"], was.get("note"), by=by)


def _promise(subject: Any, was: Any, by: Any) -> None:
    change = (
        services.change_title_promise if isinstance(subject, Title) else services.change_promise
    )
    change(subject, was, by=by)


def _move(attempt: Any, was: Any, by: Any) -> None:
    goal = Delivery.objects.filter(pk=was, binned_at=None).first()
    if goal is None:
        raise UsageError("The delivery that it was of is gone.", code="gone", where=str(attempt))
    tidying.move(attempt, goal, by=by)


def _names(subject: Any) -> Any:
    return {"name": subject.name, **({"note": subject.note} if isinstance(subject, Title) else {})}


DEEDS: Mapping[str, Deed] = {
    "bin": Deed(TIDY, lambda one: one.binned_at is not None, _back),
    "rename": Deed(TIDY, _names, _rename),
    "move": Deed(TIDY, lambda one: one.delivery_id, _move),
    "promise": Deed(PROMISE, lambda one: one.promise_text, _promise),
}


def state_of(kind: str, subject: Subject) -> Any:
    """Return how something is, to be told to `offer` once the deed is done."""
    return DEEDS[kind].now(subject)


def offer(request: HttpRequest, words: str, kind: str, subject: Subject, before: Any) -> None:
    """Tell what was done, with a button that undoes it. before: state_of, before it was done."""
    after = DEEDS[kind].now(subject)
    if before == after:
        messages.success(request, words)
        return
    key = uuid4().hex
    told = {"kind": kind, "model": type(subject).__name__.lower(), "pk": subject.pk}
    held: dict[str, Told] = request.session.get(HELD, {})
    held[key] = {**told, "before": before, "after": after}
    request.session[HELD] = dict(list(held.items())[-MOST:])
    messages.success(request, words, extra_tags=f"{HELD}-{key}")


def undo(request: HttpRequest, key: str) -> Subject | None:
    """Undo a deed and return what it was of; None where it cannot be known any more.

    Raises UsageError where it was changed since, or the person may not.
    """
    held: dict[str, Told] = request.session.get(HELD, {})
    told = held.pop(key, None)
    request.session[HELD] = held
    if told is None:
        return None
    deed = DEEDS[told["kind"]]
    subject: Subject | None = tidying.KINDS[told["model"]].objects.filter(pk=told["pk"]).first()
    if subject is None:
        return None
    if not may(request.user, deed.act, subject.place.title_id):
        raise UsageError("Your role does not let you.", code="not-allowed", where=str(subject))
    if deed.now(subject) != told["after"]:
        words = f"{subject} was changed since, by somebody else or in another window: it stays."
        raise UsageError(words, code="changed-since", where=str(subject))
    deed.put(subject, told["before"], request.user)
    return subject
