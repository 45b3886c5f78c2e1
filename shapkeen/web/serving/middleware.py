"""What every request and answer passes: bodies that nobody may send, and pages that are private."""

from collections.abc import Callable
from copy import copy

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import CsrfViewMiddleware
from django.shortcuts import render
from django.utils.cache import patch_cache_control

from ..library.uploads import CHUNK_BYTES, too_large

Next = Callable[[HttpRequest], HttpResponse]
FORM_BYTES = 2_500_000
"""More is an upload, whatever it calls itself; Django's own limit for forms."""


def refuse_bodies(get_response: Next) -> Next:
    """Refuse uploads before their body: without log-in, without token, or far too large.

    Stands before all that reads a body, the check of form tokens included.
    """
    by_header = CsrfViewMiddleware(get_response)

    def gate(request: HttpRequest) -> HttpResponse:
        told = str(request.META.get("CONTENT_LENGTH") or "")
        size = int(told) if told.isascii() and told.isdecimal() else 0
        is_upload = request.content_type == "multipart/form-data" or size > FORM_BYTES
        if request.method in ("GET", "HEAD", "OPTIONS") or not is_upload:
            return get_response(request)
        if not request.user.is_authenticated:
            return _refused(request, 403, "Log in before you send a file.")
        limit = settings.CONF.upload_limit_bytes
        if size > limit + CHUNK_BYTES:
            return _refused(request, 413, too_large(limit))
        probe = copy(request)
        probe.method = "PUT"  # whose token is looked for among the headers alone
        by_header.process_request(probe)
        if by_header.process_view(probe, _any_view, (), {}) is not None:
            words = "This page is too old, or scripts are off. Load it again, then send the file."
            return _refused(request, 403, words)
        return get_response(request)

    return gate


def _any_view(_request: HttpRequest) -> HttpResponse:
    return HttpResponse()


def _refused(request: HttpRequest, status: int, words: str) -> HttpResponse:
    answer = render(request, "refused.html", {"words": words}, status=status)
    answer["Connection"] = "close"  # what is still coming is not read
    return answer


def private_pages(get_response: Next) -> Next:
    """Keep pages of people who are logged in out of shared caches, and from being shown stale."""

    def keep_private(request: HttpRequest) -> HttpResponse:
        answer = get_response(request)
        if request.user.is_authenticated and not answer.has_header("Cache-Control"):
            patch_cache_control(answer, private=True, no_cache=True)
        return answer

    return keep_private
