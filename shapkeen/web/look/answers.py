"""Sending a file that was drawn on request, or saying why it could not be."""

from collections.abc import Callable
from typing import IO

from django.http import FileResponse, HttpResponse

from ...core.errors import CoreError


def file_answer(
    make: Callable[[], IO[bytes]], kind: str = "image/png"
) -> HttpResponse | FileResponse:
    """Return the made file, or as 422 what the core says is wrong. kind: its media type."""
    try:
        file = make()
    except CoreError as error:
        return HttpResponse(error.text, status=422, content_type="text/plain; charset=utf-8")
    return FileResponse(file, content_type=kind)
