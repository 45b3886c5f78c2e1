"""Finding what a request asks for, as far as its user may see it."""

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from .models import Attempt, Reel

MOST_DIGITS = 9


def whole_number(text: str) -> int | None:
    """Return a whole number from an address, None where there is none or it is absurdly long."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) <= MOST_DIGITS else None


def visible_attempt(request: HttpRequest, attempt_id: int) -> Attempt:
    """Return the attempt with its context; answers 404 where the user may not see it."""
    visible = Attempt.objects.visible_to(request.user).with_context()
    return get_object_or_404(visible, pk=attempt_id)


def visible_reel(request: HttpRequest, reel_id: int) -> Reel:
    """Return the file with its title or attempt; answers 404 where the user may not see it."""
    visible = Reel.objects.visible_to(request.user).with_context()
    return get_object_or_404(visible, pk=reel_id)
