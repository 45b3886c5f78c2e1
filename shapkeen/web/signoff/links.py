"""Review links: made, opened, counted, ended."""

import hashlib
import secrets
from datetime import timedelta

from django.db import transaction
from django.db.models import F
from django.http import HttpRequest
from django.utils import timezone

from ..history.services import record
from ..library.models import Attempt
from ..people.guests import Guest
from ..people.rights import Viewer, account_of
from .models import ReviewLink

SESSION_KEY = "review_links"


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


@transaction.atomic
def make_link(
    attempt: Attempt, name: str, *, days: int, remarks: bool, signs: bool, by: Viewer
) -> tuple[ReviewLink, str]:
    """Return a new link and its token, which is kept nowhere."""
    token = secrets.token_urlsafe(24)
    link = ReviewLink.objects.create(
        attempt=attempt,
        token_digest=_digest(token),
        name=name,
        remarks=remarks,
        signs=signs,
        made_by=account_of(by),
        ends_at=timezone.now() + timedelta(days=days),
    )
    after = {"for": name, "days": days, "remarks": remarks, "signs": signs}
    record("review link made", attempt.place, by=by, after=after)
    return link, token


@transaction.atomic
def end_link(link: ReviewLink, *, by: Viewer) -> None:
    """End a link: whoever looks through it sees nothing from the next page on."""
    if link.ended_at is None:
        link.ended_at = timezone.now()
        link.save(update_fields=["ended_at"])
        record("review link ended", link.attempt.place, by=by, before={"for": link.name})


def open_link(request: HttpRequest, token: str) -> ReviewLink | None:
    """Return the link of a token and let this browser in by it; None where it leads nowhere."""
    link = ReviewLink.objects.filter(token_digest=_digest(token)).first()
    if link is None or not link.is_open:
        return None
    ReviewLink.objects.filter(pk=link.pk).update(views=F("views") + 1, seen_at=timezone.now())
    known = [number for number in request.session.get(SESSION_KEY, []) if number != link.pk]
    request.session.cycle_key()
    request.session[SESSION_KEY] = [*known, link.pk]
    record("review link opened", link.attempt.place, by=guest_of(link))
    return link


def guest_of(link: ReviewLink) -> Guest:
    """Return who comes by a link."""
    name = f"{link.name} (by link)"
    return Guest(link.pk, name, link.attempt_id, remarks=link.remarks, signs=link.signs)


def guest_for(request: HttpRequest, attempt_id: int | None) -> Guest | None:
    """Return who this browser is to an attempt by an open link; the newest link where several are.

    attempt_id: None for addresses of no attempt.
    """
    numbers = request.session.get(SESSION_KEY, [])
    if not numbers:
        return None
    links = ReviewLink.objects.filter(pk__in=numbers, attempt__binned_at=None)
    if attempt_id is not None:
        links = links.filter(attempt_id=attempt_id)
    link = next((one for one in links.order_by("-pk") if one.is_open), None)
    return guest_of(link) if link else None
