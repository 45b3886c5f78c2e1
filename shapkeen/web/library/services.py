"""Bringing files in: masters with their titles, exports with their deliveries."""

from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db import transaction
from django.db.models import Max

from ...core.errors import UnreadableFileError
from ..jobs.sandbox import ChildDiedError, run_child
from ..jobs.services import start_survey
from .models import Attempt, Delivery, Reel, Title
from .roots import resolve
from .uploads import ReelFile

READ_TIME_S = 20
User = AbstractBaseUser | AnonymousUser | None


def take_upload(upload: ReelFile) -> tuple[str, str]:
    """Give an upload its place; returns root and path."""
    kept = upload.keep(settings.CONF.upload_dir)
    return "uploads", kept.name


def read_reel(root: str, path: str, *, by: User) -> Reel:
    """Return a new, saved reel for a file that is read at once.

    Raises UsageError for a path outside the roots, UnreadableFileError for what cannot be read.
    """
    place = resolve(root, path)
    try:
        found = run_child("read", path=str(place), time_s=READ_TIME_S)
    except ChildDiedError as error:
        raise UnreadableFileError(
            "Reading the file's headers took too long or failed badly. The file is damaged: "
            "export it again.",
            code="reader-failed",
            where=place.name,
        ) from error
    return Reel.objects.create(
        root=root,
        path=path,
        size_bytes=found["size_bytes"],
        changed_ns=found["changed_ns"],
        declaration=found["declaration"],
        added_by=by if by is not None and by.is_authenticated else None,  # type: ignore[misc]
    )


def discard_upload(root: str, path: str) -> None:
    """Remove an uploaded file that turned out to be unusable."""
    if root == "uploads":
        Path(settings.CONF.upload_dir / path).unlink(missing_ok=True)


@transaction.atomic
def create_title(name: str, note: str, root: str, path: str, *, by: User) -> Title:
    """Return a new title with its master."""
    return Title.objects.create(name=name, note=note, master=read_reel(root, path, by=by))


@transaction.atomic
def add_attempt(title: Title, delivery_name: str, root: str, path: str, *, by: User) -> Attempt:
    """Return a new attempt of a delivery (made if it is new), its survey under way."""
    reel = read_reel(root, path, by=by)
    delivery, _ = Delivery.objects.get_or_create(title=title, name=delivery_name)
    last = delivery.attempts.aggregate(last=Max("number"))["last"] or 0
    attempt = Attempt.objects.create(delivery=delivery, number=last + 1, reel=reel)
    start_survey(attempt)
    return attempt
