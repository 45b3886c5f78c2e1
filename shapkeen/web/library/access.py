"""Finding what a request asks for, as far as its user may see it."""

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from .models import Attempt


def visible_attempt(request: HttpRequest, attempt_id: int) -> Attempt:
    """Return the attempt with its context; answers 404 where the user may not see it."""
    visible = Attempt.objects.visible_to(request.user).with_context()
    return get_object_or_404(visible, pk=attempt_id)
