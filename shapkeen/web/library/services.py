"""Bringing files in: masters with their titles, exports with their deliveries."""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from ...core.declared import TraitValue
from ...core.promised import Promise, Promised, promise_to_json
from ...core.reported.declared import declaration_from_object
from ...core.reported.sheet import FileSheet, file_sheet, outline_from_object
from ..history.services import record
from ..people.rights import Viewer, account_of
from ..work.boundary import run_child
from ..work.child import Work
from . import works
from .models import Attempt, Delivery, Reel, Title
from .roots import resolve
from .signals import attempt_added, promise_changed
from .uploads import ReelFile

READ_TIME_S = 20
User = Viewer | None


def take_upload(upload: ReelFile) -> tuple[str, str]:
    """Give an upload its place; returns root and path."""
    kept = upload.keep(settings.CONF.upload_dir)
    return "uploads", kept.name


@dataclass(frozen=True, slots=True)
class ReadFile:
    """A file that was found and read, but not kept yet."""

    root: str
    path: str
    found: dict[str, Any]

    def keep(self, by: User) -> Reel:
        """Return it as a saved reel."""
        return Reel.objects.create(
            root=self.root,
            path=self.path,
            size_bytes=self.found["size_bytes"],
            changed_ns=self.found["changed_ns"],
            declaration=self.found["declaration"],
            added_by=account_of(by),
        )


def read_file(root: str, path: str) -> ReadFile:
    """Return what a file declares, read in a child process.

    Raises UsageError for a path outside the roots, UnreadableFileError for what cannot be read.
    """
    return ReadFile(root, path, _headers_of(resolve(root, path), works.read))


Reader = Callable[[str, str], ReadFile]


def read_own(root: str, path: str) -> ReadFile:
    """Return as read_file, but read in this process: only for files that we made ourselves."""
    return ReadFile(root, path, works.read({"path": str(resolve(root, path))}, lambda *_: None))


def read_sheet(reel: Reel) -> FileSheet:
    """Return all that a file says now, read in a child process.

    Raises UsageError where it is gone or outside its root, UnreadableFileError where it can no
    longer be read.
    """
    found = _headers_of(reel.locate(), works.outline)
    declaration = declaration_from_object(found["declaration"])
    return file_sheet(declaration, outline_from_object(found["outline"]))


def _headers_of(place: Path, work: Work) -> dict[str, Any]:
    return run_child(work, path=str(place), time_s=READ_TIME_S)


def discard_upload(root: str, path: str) -> None:
    """Remove an uploaded file that turned out to be unusable."""
    if root == "uploads":
        Path(settings.CONF.upload_dir / path).unlink(missing_ok=True)


@transaction.atomic
def change_promise(delivery: Delivery, text: str, *, by: User) -> None:
    """Save a delivery's own promise; whoever judges by it hears of it."""
    before = delivery.promise_text
    delivery.set_promise(text, by=by, at=timezone.now())
    if before != text:
        record("promise changed", delivery.place, by=by, before=_told(before), after=_told(text))
    promise_changed.send(sender=Delivery, delivery=delivery)


@transaction.atomic
def change_title_promise(title: Title, text: str, *, by: User) -> None:
    """Save a title's own promise; every delivery is judged by it.

    Raises UsageError where a delivery asks for what cannot be kept beside it.
    """
    before, title.promise_text = title.promise_text, text
    title.promise_at, title.promise_by = timezone.now(), account_of(by)
    title.save(update_fields=["promise_text", "promise_at", "promise_by"])
    if before != text:
        record("promise changed", title.place, by=by, before=_told(before), after=_told(text))
    _judge_anew(title)


def _judge_anew(title: Title) -> None:
    """Have every delivery judged by what its title promises now."""
    for delivery in title.deliveries.select_related("title__master"):
        delivery.refresh_digest()
        promise_changed.send(sender=Delivery, delivery=delivery)


def _told(promise: str) -> Any:
    """Return a promise file's text as the history holds it."""
    return json.loads(promise) if promise else None


@transaction.atomic
def answer_for_master(title: Title, values: Mapping[str, TraitValue], *, by: User) -> None:
    """Save what someone says of a silent master; every delivery is judged by it.

    Raises UsageError where the master cannot be so.
    """
    said = {name: Promised(value=value, origin="", explicit=True) for name, value in values.items()}
    before = title.answers_text
    title.answers_text = promise_to_json(Promise(traits=said)) if said else ""
    after = _told(title.answers_text)
    record("said of the master", title.place, by=by, before=_told(before), after=after)
    title.answers_at = timezone.now()
    title.answers_by = account_of(by)
    title.save(update_fields=["answers_text", "answers_at", "answers_by"])
    _judge_anew(title)


def _file(reel: Reel) -> dict[str, Any]:
    """Return a file as the history holds it."""
    return {"file": reel.name, "root": reel.root, "size_bytes": reel.size_bytes}


def create_title(
    name: str, note: str, root: str, path: str, *, by: User, reader: Reader = read_file
) -> Title:
    """Return a new title with its master."""
    read = reader(root, path)  # before the transaction, which others must wait for
    with transaction.atomic():
        title = Title.objects.create(name=name, note=note, master=read.keep(by))
        record("title made", title.place, by=by, after=_file(title.master))
    return title


def replace_master(
    title: Title, root: str, path: str, *, by: User, reader: Reader = read_file
) -> Reel:
    """Return another file as a title's master; every delivery is judged by it."""
    read = reader(root, path)
    with transaction.atomic():
        before, title.master = _file(title.master), read.keep(by)
        title.save(update_fields=["master"])
        after = _file(title.master)
        record("master replaced", title.place, by=by, before=before, after=after)
        _judge_anew(title)
    return title.master


def delivery_named(title: Title, name: str) -> Delivery:
    """Return a title's delivery of that name, made if it is new."""
    delivery, is_new = Delivery.objects.get_or_create(title=title, name=name, binned_at=None)
    if is_new:
        delivery.refresh_digest()
    return delivery


def add_attempt(
    title: Title,
    delivery_name: str,
    root: str,
    path: str,
    *,
    by: User,
    reader: Reader = read_file,
    sent_as: UUID | None = None,
    priority: int | None = None,
) -> Attempt:
    """Return a new attempt of a delivery (made if it is new), its survey under way.

    sent_as: marks the form that sent it; sent again, it gives the attempt that there is. priority:
    of its survey among those that wait (work.kinds).
    """
    read = reader(root, path)
    with transaction.atomic():
        known = Attempt.objects.filter(sent_as=sent_as, delivery__title=title).first()
        if sent_as and known:
            return known
        reel = read.keep(by)
        delivery = delivery_named(title, delivery_name)
        last = delivery.attempts.aggregate(last=Max("number"))["last"] or 0
        attempt = Attempt.objects.create(
            delivery=delivery, number=last + 1, reel=reel, sent_as=sent_as
        )
        record("export added", attempt.place, by=by, after=_file(reel))
        attempt_added.send(sender=Attempt, attempt=attempt, priority=priority)
    return attempt
