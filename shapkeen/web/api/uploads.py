"""Uploads in parts: each part is written where the last one ended, and can be sent again."""

import errno
import fcntl
import os
from datetime import timedelta
from typing import Any, BinaryIO

from django.conf import settings
from django.utils import timezone

from ...core.errors import UsageError
from ..library.services import take_upload
from ..library.uploads import ReelFile, too_large, write_failure
from .models import Remembered, Upload

PIECE_BYTES = 1024 * 1024
MOST_OPEN = 50
"""Unfinished uploads of one person."""
UPLOADS_KEPT, ANSWERS_KEPT = timedelta(days=7), timedelta(days=2)
"""How long an unfinished upload waits for its rest, and an answer for a request sent twice."""


def begin(user: Any, name: str, size_bytes: int) -> Upload:
    """Return a new upload; raises UsageError where it is too large or too many are open."""
    limit = settings.CONF.upload_limit_bytes
    if size_bytes > limit:
        raise UsageError(too_large(limit), code="too-large", where="size_bytes")
    if Upload.objects.filter(user=user).count() >= MOST_OPEN:
        raise UsageError("Too many uploads are unfinished.", code="too-many", where="uploads")
    return Upload.objects.create(user=user, name=name, size_bytes=size_bytes)


def add_part(upload: Upload, offset: int, body: Any) -> Upload:
    """Write one part; raises UsageError where it does not begin where the last one ended.

    body: what has read(size). What was written before a connection broke is not counted, and is
    sent again. The file is held by its lock meanwhile, never the database: a part may take minutes.
    """
    _check_offset(upload, offset)
    try:
        upload.path.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(upload.path, os.O_RDWR | os.O_CREAT, 0o600), "r+b") as file:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            upload.refresh_from_db()
            _check_offset(upload, offset)
            file.truncate(offset)
            file.seek(offset)
            received = offset + _written(file, body, upload.size_bytes - offset)
            Upload.objects.filter(pk=upload.pk).update(received=received)
    except BlockingIOError as error:
        raise UsageError("A part of it is under way.", code="under-way", where="offset") from error
    except OSError as error:
        code = "disk-full" if error.errno == errno.ENOSPC else "not-written"
        raise UsageError(write_failure(error), code=code, where=upload.name) from error
    upload.received = received
    return upload


def _check_offset(upload: Upload, offset: int) -> None:
    if offset != upload.received:
        words = f"The next part begins at {upload.received}, not at {offset}."
        raise UsageError(words, code="wrong-offset", where="offset")


def _written(file: BinaryIO, body: Any, room: int) -> int:
    """Write all that comes and return how many bytes that were; raises UsageError for too many."""
    count = 0
    while piece := body.read(PIECE_BYTES):
        count += len(piece)
        if count > room:
            raise UsageError("That is more than was told.", code="too-long", where="body")
        file.write(piece)
    file.flush()
    os.fsync(file.fileno())
    return count


def finish(upload: Upload) -> tuple[str, str]:
    """Give a whole upload its place; returns root and path. Raises UsageError for half a file."""
    if upload.received < upload.size_bytes:
        words = f"{upload.received} of {upload.size_bytes} bytes came; send the rest first."
        raise UsageError(words, code="half", where="upload_id")
    placed = take_upload(ReelFile(upload.path, upload.name, upload.size_bytes))
    upload.delete()
    return placed


def forget(upload: Upload) -> None:
    """Take away an upload that is not wanted any more."""
    upload.path.unlink(missing_ok=True)
    upload.delete()


def kept_parts() -> set[str]:
    """Return the names of the files that unfinished uploads lie in."""
    return {one.path.name for one in Upload.objects.all()}


def tidy() -> None:
    """Take away uploads whose rest did not come, and answers that nobody asks for again."""
    now = timezone.now()
    for upload in Upload.objects.filter(made_at__lt=now - UPLOADS_KEPT):
        forget(upload)
    Remembered.objects.filter(made_at__lt=now - ANSWERS_KEPT).delete()
