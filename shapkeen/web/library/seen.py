"""What a person looked at last, kept in their browser.

In the database, every page that is looked at would be a write, and wait for those of the workers.
"""

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from .models import Attempt

COOKIE, MOST = "seen", 6
KEPT_S = 3600 * 24 * 30


def note(request: HttpRequest, attempt: Attempt, answer: HttpResponse) -> None:
    """Have the browser remember that its person looked at an attempt, the latest first."""
    before = _numbers(request)
    now = [attempt.pk, *(number for number in before if number != attempt.pk)][:MOST]
    if now != before:
        answer.set_signed_cookie(
            COOKIE,
            " ".join(map(str, now)),
            salt=_salt(request),
            max_age=KEPT_S,
            secure=bool(settings.SESSION_COOKIE_SECURE),
            httponly=True,
            samesite="Lax",
        )


def last(request: HttpRequest) -> list[Attempt]:
    """Return the attempts that were looked at last, as far as they still may be."""
    numbers = _numbers(request)
    rows = Attempt.objects.visible_to(request.user).named().in_bulk(numbers) if numbers else {}
    return [rows[number] for number in numbers if number in rows]


def _numbers(request: HttpRequest) -> list[int]:
    kept = request.get_signed_cookie(COOKIE, "", salt=_salt(request), max_age=KEPT_S)
    return [int(one) for one in (kept or "").split()]


def _salt(request: HttpRequest) -> str:
    """Return what makes it this person's: another one at the same browser sees nothing of it."""
    return f"seen by {request.user.pk}"
