"""Digests of an attempt's two files: taken in the background, known by the files' states."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from django.utils import timezone

from ...core.digests import StateOnDisk, state_on_disk
from ...core.errors import CoreError, UnreadableFileError
from ..library.models import Attempt, Reel
from ..work import services as work
from ..work.boundary import run_child
from ..work.errors import StoppedError
from ..work.kinds import LAST, SOON
from ..work.models import Job
from . import works
from .models import FileDigest

WORK = "digest"
AGAIN_S = 10
"""How long after its last change on the disk a failed reading is tried again by itself."""


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of one file. sha256: of its present state, empty where that was not read.

    error: why it cannot be reached. since: from when its bytes have been these.
    """

    reel: Reel
    sha256: str
    state: StateOnDisk | None
    error: str = ""
    since: datetime | None = None

    @property
    def changed_at(self) -> datetime | None:
        """Return when it changed last on the disk."""
        return datetime.fromtimestamp(self.state.changed_ns / 1e9, UTC) if self.state else None


def known(reel: Reel) -> Known:
    """Return what is known of a file; only its state on the disk is looked at."""
    try:
        state = state_on_disk(reel.locate())
    except CoreError as error:
        return Known(reel, "", None, error.text)
    row = FileDigest.objects.filter(reel=reel).first()
    if row is None or StateOnDisk(row.size_bytes, row.changed_ns, row.inode_ns) != state:
        return Known(reel, "", state)
    return Known(reel, row.sha256, state, since=row.since)


def both(attempt: Attempt) -> tuple[Known, Known]:
    """Return what is known of master and export."""
    return known(attempt.delivery.title.master), known(attempt.reel)


def wanted(attempt: Attempt, files: tuple[Known, Known]) -> Job | None:
    """Return the work that will bring what is missing, begun if need be; None where nothing is."""
    if all(one.sha256 or one.error for one in files):
        return None
    last = Job.objects.latest_of(WORK, attempt.pk)
    states = [one.state for one in files if one.state and not one.sha256]
    newest = max(max(state.inode_ns, state.changed_ns) for state in states) / 1e9
    fresh = last and last.ended_at and last.ended_at.timestamp() > newest + AGAIN_S
    if last is not None and last.state == Job.State.FAILED and fresh:
        return last
    job = work.start(WORK, attempt.pk, priority=SOON)
    work.hurry(job, SOON)  # it was asked for by nobody yet; now somebody waits at a page
    return job


def take_after_measuring(sender: object, attempt: Attempt, **_: Any) -> None:
    """Take digests once an attempt was measured, after all that waits to be."""
    if not all(one.sha256 for one in both(attempt)):
        work.start(WORK, attempt.pk, priority=LAST)


def run_digests(job: Job) -> None:
    """Take the digests of an attempt's files. Raises CoreError, FaultError and StoppedError."""
    attempt = Attempt.objects.with_context().filter(pk=job.subject_id).first()
    if attempt is None:
        raise StoppedError
    missing = [one.reel for one in both(attempt) if not one.sha256]
    paths = [str(reel.locate()) for reel in missing]
    found = run_child(works.digests, progress=job.report, wanted=job.is_wanted, paths=paths)
    for reel, told in zip(missing, found["files"], strict=True):
        if not told["steady"]:
            raise UnreadableFileError(
                f"{reel.name} was being written while its digest was taken. Try again when it is "
                "whole.",
                code="changing",
                where=reel.name,
            )
        keep(reel, told["sha256"], told["state"])


def keep(reel: Reel, sha256: str, state: list[int]) -> FileDigest:
    """Save a file's digest, in place of an earlier one."""
    size, changed, inode = state
    known = FileDigest.objects.filter(reel=reel, sha256=sha256).first()
    since = known.since if known else datetime.fromtimestamp(max(inode, changed) / 1e9, UTC)
    values: dict[str, Any] = {"size_bytes": size, "changed_ns": changed, "inode_ns": inode}
    values |= {"sha256": sha256, "since": since}
    row, _ = FileDigest.objects.update_or_create(
        reel=reel, defaults={**values, "taken_at": timezone.now()}
    )
    return row
