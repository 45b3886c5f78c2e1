"""Renaming, moving, putting into the bin, taking out of it, and deleting for good."""

import os
import shutil
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import IntegrityError, transaction
from django.db.models import Max, Q
from django.utils import timezone

from ...core.errors import UsageError
from ..history.services import Place, record
from ..people.rights import account_of
from .models import Attempt, Binned, Delivery, Reel, Title
from .services import User
from .signals import promise_changed, purging, purging_title

KEPT_DAYS = 30
HERE = "uploads"
"""The root of the files that lie only here."""
Subject = Title | Delivery | Attempt
KINDS: Mapping[str, Any] = {"title": Title, "delivery": Delivery, "attempt": Attempt}


@dataclass(frozen=True, slots=True)
class Consequences:
    """What goes with something. lost_bytes: of files that lie only here; stay: files elsewhere."""

    deliveries: int
    attempts: int
    signatures: int
    remarks: int
    rehearsals: int
    lost_files: int
    lost_bytes: int
    stay: int

    @property
    def words(self) -> list[str]:
        """Return what goes with it, in words; nothing that is none."""
        counts = (
            (self.deliveries, "delivery", "deliveries"),
            (self.attempts, "attempt with its verdicts", "attempts with their verdicts"),
            (self.signatures, "signature", "signatures"),
            (self.remarks, "remark", "remarks"),
            (self.rehearsals, "rehearsal", "rehearsals"),
        )
        return [f"{n} {one if n == 1 else many}" for n, one, many in counts if n]


def attempts_of(subject: Subject) -> list[Attempt]:
    """Return every attempt that belongs to something, the bin's too."""
    rows = Attempt.objects.select_related("reel", "delivery__title")
    if isinstance(subject, Title):
        return list(rows.filter(delivery__title=subject))
    if isinstance(subject, Delivery):
        return list(rows.filter(delivery=subject))
    return list(rows.filter(pk=subject.pk))


def consequences_of(subject: Subject) -> Consequences:
    """Return what would go if something were deleted."""
    attempts = attempts_of(subject)
    reels = [one.reel for one in attempts]
    if isinstance(subject, Title):
        reels.append(subject.master)
    here = [reel for reel in reels if reel.root == HERE]
    among = Attempt.objects.filter(pk__in=[one.pk for one in attempts])

    def count(path: str) -> int:
        return int(among.exclude(**{path: None}).values(path).distinct().count())

    return Consequences(
        deliveries=subject.deliveries.count() if isinstance(subject, Title) else 0,
        attempts=len(attempts) if not isinstance(subject, Attempt) else 0,
        signatures=count("signatures"),
        remarks=count("remarks"),
        rehearsals=count("rehearsals"),
        lost_files=len(here),
        lost_bytes=sum(reel.size_bytes for reel in here),
        stay=len(reels) - len(here),
    )


@transaction.atomic
def rename(subject: Title | Delivery, name: str, note: str | None = None, *, by: User) -> None:
    """Give a title or a delivery another name. Raises UsageError where it is taken."""
    before = {"name": subject.name}
    subject.name = name
    if isinstance(subject, Title) and note is not None:
        subject.note = note
    try:
        with transaction.atomic():
            subject.save()
    except IntegrityError as error:
        subject.refresh_from_db()
        raise UsageError(
            f"There is one named {name} already. Take another name.", code="name-taken", where=name
        ) from error
    if before["name"] != name:
        record("renamed", subject.place, by=by, before=before, after={"name": name})


def rename_file(reel: Reel, name: str, place: Place, *, by: User) -> None:
    """Give a file that lies only here another name, its ending kept.

    Raises UsageError for a file of a media root, a bad name, or one that is taken.
    """
    if reel.root != HERE:
        raise UsageError(
            f"{reel.name} lies on the media root {reel.root}; rename it there.",
            code="not-here",
            where=reel.name,
        )
    stem = name.strip()
    if not stem or stem.startswith(".") or any(sign in stem for sign in "/\\\0") or len(stem) > 120:
        raise UsageError("That is no name for a file.", code="bad-name", where=name)
    ending = Path(reel.path).suffix
    wanted = stem if Path(stem).suffix == ending else f"{stem}{ending}"
    source, folder = reel.locate(), settings.CONF.upload_dir
    goal = folder / wanted
    if goal == source:
        return
    try:
        os.link(source, goal)  # never over another file
    except OSError as error:
        raise UsageError(
            f"{wanted} cannot be: {error.strerror}. Take another name.",
            code="name-taken",
            where=wanted,
        ) from error
    try:
        with transaction.atomic():
            before, reel.path = {"file": reel.name}, wanted
            reel.save(update_fields=["path"])
            record("file renamed", place, by=by, before=before, after={"file": wanted})
    except BaseException:
        goal.unlink(missing_ok=True)
        raise
    source.unlink(missing_ok=True)


@transaction.atomic
def move(attempt: Attempt, goal: Delivery, *, by: User) -> None:
    """Move an attempt to another delivery of its title; it is judged by that one's promise.

    Raises UsageError where the goal is of another title, which has another master.
    """
    if goal.title_id != attempt.delivery.title_id:
        raise UsageError(
            "An attempt belongs to its master: it can be moved within its title only.",
            code="other-title",
            where=str(goal),
        )
    before = {"delivery": attempt.delivery.name, "number": attempt.number}
    last = goal.attempts.aggregate(last=Max("number"))["last"] or 0
    attempt.delivery, attempt.number = goal, last + 1
    attempt.save(update_fields=["delivery", "number"])
    after = {"delivery": goal.name, "number": attempt.number}
    record("moved", attempt.place, by=by, before=before, after=after)
    promise_changed.send(sender=Delivery, delivery=goal)


@transaction.atomic
def put_into_bin(subject: Subject, *, by: User) -> None:
    """Put something into the bin: it is seen nowhere else, and can be taken back."""
    subject.put_away(account_of(by))
    record("put into the bin", subject.place, by=by)


@transaction.atomic
def take_back(subject: Subject, *, by: User) -> None:
    """Take something out of the bin. Raises UsageError where its name was given to another."""
    try:
        with transaction.atomic():
            subject.take_back()
    except IntegrityError as error:
        subject.refresh_from_db()
        raise UsageError(
            f"Another one is named {subject} by now. Rename that one, then take this back.",
            code="name-taken",
            where=str(subject),
        ) from error
    record("taken out of the bin", subject.place, by=by)


def in_bin() -> list[Subject]:
    """Return all that lies in the bin, the latest first."""
    titles = Title.objects.exclude(binned_at=None)
    deliveries = Delivery.objects.exclude(binned_at=None).select_related("title__master")
    attempts = Attempt.objects.exclude(binned_at=None).select_related(
        "reel", "delivery__title__master"
    )
    found: list[Subject] = [*titles.select_related("master"), *deliveries, *attempts]
    return sorted(found, key=_binned_at, reverse=True)


def _binned_at(subject: Binned) -> datetime:
    return subject.binned_at or timezone.now()


def empty(*, by: User, older_than_days: int = 0) -> int:
    """Delete for good what has been in the bin for so long; returns how many things."""
    before = timezone.now() - timedelta(days=older_than_days)
    old = [one for one in in_bin() if one.binned_at is not None and one.binned_at <= before]
    # Titles first: what lies in the bin of its own may go with them.
    for subject in sorted(
        old, key=lambda one: isinstance(one, Attempt) * 2 + isinstance(one, Delivery)
    ):
        if type(subject).objects.filter(pk=subject.pk).exists():
            _purge(subject, by=by)
    return len(old)


def _purge(subject: Subject, *, by: User) -> None:
    """Delete something for good: its rows, then the files of it that lie only here."""
    with transaction.atomic():
        record("deleted for good", subject.place, by=by)
        reels = []
        for attempt in attempts_of(subject):
            purging.send(sender=Attempt, attempt=attempt)
            reels.append(attempt.reel)
            attempt.delete()
        if isinstance(subject, Title):
            purging_title.send(sender=Title, title=subject)
            reels.append(subject.master)
        if not isinstance(subject, Attempt):
            subject.delete()
        kept = [(reel.root, reel.path) for reel in reels]
        Reel.objects.filter(pk__in=[reel.pk for reel in reels]).delete()
    _remove_files(kept)


def _remove_files(places: Iterable[tuple[str, str]]) -> None:
    """Remove files that lie only here, unless another row still has one."""
    for root, path in places:
        if root == HERE and not Reel.objects.filter(Q(root=root) & Q(path=path)).exists():
            (settings.CONF.upload_dir / path).unlink(missing_ok=True)


def remove_folder(folder: Path) -> None:
    """Remove a folder of things that were made of something that is gone."""
    shutil.rmtree(folder, ignore_errors=True)
