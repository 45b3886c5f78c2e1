"""Writing and verifying archives, and what titles take on the disks."""

from dataclasses import dataclass
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from ... import __version__
from ...core.archived import check_bag, write_bag
from ...core.errors import UsageError
from ..history.services import Place, record
from ..library.models import Reel, Title, Viewer
from ..people.rights import account_of, may, titles_of
from ..people.roles import ARCHIVE
from ..work import services as work
from ..work.errors import StoppedError
from ..work.models import Job
from . import collecting
from .models import Archive

WRITE, VERIFY = "archive", "verify"


@transaction.atomic
def ask(name: str, choices: dict[str, Any], *, by: Viewer) -> Archive:
    """Have an archive written. Raises UsageError where its name is taken."""
    titles = list(Title.objects.filter(pk__in=choices["titles"]))
    try:
        with transaction.atomic():
            made = Archive.objects.create(
                name=name,
                choices=choices,
                titles=[title.name for title in titles],
                asked_by=account_of(by),
            )
    except IntegrityError as error:
        raise UsageError(
            f"There is an archive named {name}. Give this one another name.",
            code="taken",
            where=name,
        ) from error
    for title in titles:
        record("archive asked for", title.place, by=by, after={"archive": name})
    work.start(WRITE, made.pk)
    return made


def find_archive(user: Viewer, archive_id: int) -> Archive | None:
    """Return an archive as far as a user may see it: whoever may archive all that is in it."""
    found = Archive.objects.filter(pk=archive_id).first()
    if found is None:
        return None
    seen = titles_of(user)
    if seen is not None and not seen.issuperset(found.choices["titles"]):
        return None
    return found if all(may(user, ARCHIVE, one) for one in found.choices["titles"]) else None


def run_write(job: Job) -> None:
    """Write an archive's bag, or go on with it. Raises CoreError and StoppedError."""
    archive = Archive.objects.filter(pk=job.subject_id).first()
    if archive is None or archive.written_at is not None:
        raise StoppedError
    titles = list(Title.objects.filter(pk__in=archive.choices["titles"]).select_related("master"))
    items = collecting.items_of(titles, archive.choices)
    archive.folder.parent.mkdir(parents=True, exist_ok=True)
    if archive.folder.exists() and check_bag(archive.folder, told=_telling(job)).is_whole:
        return _written(archive, titles)  # it was whole, and our last word of it was lost
    info = (
        ("Bagging-Date", f"{archive.asked_at:%Y-%m-%d}"),
        ("Bag-Software-Agent", f"Shapkeen {__version__}"),
        ("External-Identifier", archive.name),
        ("External-Description", "Titles: " + ", ".join(title.name for title in titles)),
    )
    write_bag(archive.folder, items, info=info, told=_telling(job))
    return _written(archive, titles)


def _written(archive: Archive, titles: list[Title]) -> None:
    """Save that an archive is whole, and what it holds."""
    found = [path for path in (archive.folder / "data").rglob("*") if path.is_file()]
    archive.files, archive.size_bytes = len(found), sum(path.stat().st_size for path in found)
    archive.written_at = archive.checked_at = timezone.now()
    archive.save(update_fields=["files", "size_bytes", "written_at", "checked_at"])
    after = {"archive": archive.name, "files": archive.files, "bytes": archive.size_bytes}
    for title in titles:
        record("archive written", title.place, by=None, after=after)


def _telling(job: Job) -> Any:
    def told(done: int, total: int) -> None:
        if not job.report(done, total):
            raise StoppedError

    return told


def verify(archive: Archive) -> Job:
    """Have an archive verified; returns the work."""
    return work.start(VERIFY, archive.pk)


def run_verify(job: Job) -> None:
    """Check every file of an archive. Raises CoreError and StoppedError."""
    archive = Archive.objects.filter(pk=job.subject_id).first()
    if archive is None:
        raise StoppedError
    found = check_bag(archive.folder, told=_telling(job))
    archive.problems = [f"{one.path}: {one.text}" for one in found.problems]
    archive.checked_at = timezone.now()
    archive.save(update_fields=["problems", "checked_at"])
    after = {"archive": archive.name, "whole": found.is_whole}
    record("archive verified", Place(f"archive {archive.name}"), by=None, after=after)


@dataclass(frozen=True, slots=True)
class DiskUse:
    """What one title takes: files that lie only here, files elsewhere, what was made of it."""

    title: Title
    here: int
    elsewhere: int
    made: int


def disk_use(user: Viewer) -> list[DiskUse]:
    """Return what each title takes on the disks, the most first; in bytes as they were read."""
    found = [_use(title) for title in Title.objects.visible_to(user).select_related("master")]
    return sorted(found, key=lambda one: one.here + one.made, reverse=True)


def _use(title: Title) -> DiskUse:
    reels = [title.master, *Reel.objects.filter(attempt__delivery__title=title)]
    here = sum(reel.size_bytes for reel in reels if reel.root == "uploads")
    made = sum(report.size_bytes for report in title.reports.all())
    for delivery in title.deliveries.prefetch_related("attempts__rehearsals"):
        for attempt in delivery.attempts.all():
            for rehearsal in attempt.rehearsals.all():
                made += _folder_bytes(rehearsal.folder)
    return DiskUse(title, here, sum(reel.size_bytes for reel in reels) - here, made)


def _folder_bytes(folder: Any) -> int:
    return sum(path.stat().st_size for path in folder.rglob("*") if path.is_file())
