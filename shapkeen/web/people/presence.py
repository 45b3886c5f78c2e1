"""Where a person is logged in: listed on a page, and ended from there."""

from datetime import timedelta
from typing import Any

from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils import timezone

from .models import Presence

WRITE_EVERY = timedelta(minutes=1)
MOST_AGENT = 200


def note_presence(request: HttpRequest) -> None:
    """Remember that a person was here, at most once a minute for a session."""
    user, key = getattr(request, "user", None), request.session.session_key
    if user is None or not user.pk or not key:
        return
    now = timezone.now()
    known = Presence.objects.filter(session_key=key, user_id=user.pk).first()
    if known is not None and now - known.seen_at < WRITE_EVERY:
        return
    agent = request.META.get("HTTP_USER_AGENT", "")[:MOST_AGENT]
    values = {"user_id": user.pk, "agent": agent, "seen_at": now}
    if known is None:
        Presence.objects.update_or_create(session_key=key, defaults=values)
    else:  # one statement: a transaction would hold the lock while this thread waits its turn
        Presence.objects.filter(pk=known.pk).update(**values)


def sessions_of(user: Any) -> list[Presence]:
    """Return where a person is logged in, the latest first; what ran out is forgotten."""
    alive = Session.objects.filter(expire_date__gt=timezone.now()).values("session_key")
    Presence.objects.filter(user=user).exclude(session_key__in=alive).delete()
    return list(Presence.objects.filter(user=user).order_by("-seen_at"))


def end_session(presence: Presence) -> None:
    """Log a person out there."""
    Session.objects.filter(session_key=presence.session_key).delete()
    presence.delete()


def end_all(user: Any, *, but: str | None = None) -> int:
    """Log a person out everywhere, but in one session; returns in how many."""
    gone = [one for one in sessions_of(user) if one.session_key != but]
    for one in gone:
        end_session(one)
    return len(gone)
