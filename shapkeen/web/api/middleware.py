"""Who asks by token: known before the guard, so that one table of rights holds here too."""

import hashlib
from collections.abc import Callable
from datetime import timedelta
from http import HTTPStatus
from typing import Any

from django.contrib.auth.models import AnonymousUser
from django.core.exceptions import RequestDataTooBig
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from ..people.rights import account_of
from .models import Remembered
from .problems import MEDIA_TYPE, as_problem, problem
from .tokens import person_of

PLACE = "/api/"
ABANDONED = timedelta(minutes=10)
"""After which a request that was never answered (a crash) may be tried again with its key."""
OPEN_PLACES = frozenset({"/api/v1/openapi.json"})


def tokens(get_response: Callable[[HttpRequest], HttpResponse]) -> Any:
    """Know whoever asks by their token alone; cookies open nothing here: no site can use them."""

    def ask(request: HttpRequest) -> HttpResponse:
        if not request.path.startswith(PLACE):
            return get_response(request)
        kind, _, token = request.headers.get("Authorization", "").partition(" ")
        person = person_of(token.strip()) if kind.lower() == "bearer" and token else None
        request.user = person or AnonymousUser()
        request._dont_enforce_csrf_checks = True  # type: ignore[attr-defined]  # no cookie counts
        if person is None and request.path not in OPEN_PLACES:
            return problem(401, "Send a token that is alive: Authorization: Bearer shk_….")
        return _once(request, lambda one: as_problem(get_response(one)))

    return ask


def _once(
    request: HttpRequest, get_response: Callable[[HttpRequest], HttpResponse]
) -> HttpResponse:
    """Answer a request with an idempotency key as it was answered the first time."""
    key, person = request.headers.get("Idempotency-Key", ""), account_of(request.user)
    if not key or request.method != "POST" or person is None:
        return get_response(request)
    if len(key) > Remembered._meta.get_field("key").max_length:  # type: ignore[operator]
        return problem(400, "An idempotency key has at most 120 signs.", code="bad-key")
    try:
        told = f"{request.get_full_path()} ".encode() + request.body
    except RequestDataTooBig:
        return problem(413, "That is larger than what is taken.")
    digest = hashlib.sha256(told).hexdigest()
    long_ago = timezone.now() - ABANDONED
    Remembered.objects.filter(user=person, key=key, status=0, made_at__lt=long_ago).delete()
    try:
        with transaction.atomic():
            row = Remembered.objects.create(user=person, key=key, request_digest=digest)
    except IntegrityError:
        return _again(person, key, digest)
    answer = get_response(request)
    if answer.status_code >= 500 or answer.streaming:
        row.delete()  # it may be tried again
        return answer
    row.status, row.answer = answer.status_code, answer.content.decode()
    row.save(update_fields=["status", "answer"])
    return answer


def _again(person: Any, key: str, digest: str) -> HttpResponse:
    row = Remembered.objects.get(user=person, key=key)
    if row.request_digest != digest:
        return problem(422, "This key was used for another request.", code="key-used")
    if not row.status:
        return problem(409, "The first request with this key is under way.", code="under-way")
    kind = MEDIA_TYPE if row.status >= HTTPStatus.BAD_REQUEST else "application/json"
    answer = HttpResponse(row.answer, status=row.status, content_type=kind)
    answer["Idempotent-Replay"] = "true"
    return answer
