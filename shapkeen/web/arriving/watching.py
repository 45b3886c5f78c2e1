"""Watched folders: files that have settled become attempts by themselves.

By polling, which network shares need; a file is taken once in each state. One that was renamed is
known again by its inode; one that was replaced is the next attempt.
"""

import logging
from dataclasses import dataclass
from datetime import datetime, timedelta
from fnmatch import fnmatchcase
from itertools import islice
from pathlib import PurePosixPath

from django.utils import timezone

from ...core.errors import CoreError, UsageError
from ..library import roots
from ..library.models import Attempt
from ..library.services import add_attempt, read_file
from ..people.rights import may
from ..people.roles import ADD
from ..work.errors import FaultError
from ..work.kinds import LATER
from .models import Watch, WatchedFile

log = logging.getLogger("shapkeen.watching")
MOST_FILES = 2000
"""Of one watched folder, with its own folders."""


@dataclass(frozen=True, slots=True)
class Found:
    """A file that a watch would take. path: within the root."""

    path: str
    size_bytes: int
    changed_ns: int
    inode: int
    is_marked: bool


def files_of(watch: Watch) -> list[Found]:
    """Return the files that a watch is for, by name; raises UsageError where it cannot look."""
    below = (
        Found(path, state.st_size, state.st_mtime_ns, state.st_ino, _is_marked(watch, path))
        for path, state in roots.files_below(watch.root, watch.folder)
        if _is_named(PurePosixPath(path).name, watch.pattern)
    )
    return list(islice(below, MOST_FILES))


def _is_named(name: str, pattern: str) -> bool:
    return any(fnmatchcase(name.casefold(), one) for one in pattern.casefold().split() or ["*"])


def _is_marked(watch: Watch, path: str) -> bool:
    return not watch.marker or (roots.roots()[watch.root] / f"{path}{watch.marker}").exists()


def look(now: datetime | None = None) -> int:
    """Look into every watched folder and take what has settled; returns how many were taken."""
    taken = 0
    for watch in Watch.objects.filter(paused=False, title__binned_at=None):
        try:
            taken += look_into(watch, now or timezone.now())
        except Exception:  # what is wrong with one folder must not keep all others from being seen
            log.exception("A look into %s failed; it is tried again.", watch)
    return taken


def look_into(watch: Watch, now: datetime) -> int:
    """Look into one watched folder."""
    found: list[Found] = []
    trouble = ""
    try:
        _check_maker(watch)
        found = files_of(watch)
    except CoreError as error:
        trouble = error.text
    Watch.objects.filter(pk=watch.pk).update(trouble=trouble[:300], looked_at=now)
    if trouble:
        return 0  # away: what was known stays known
    known = {one.path: one for one in watch.files.all()}
    _follow_renamed(found, known)
    there = {one.path for one in found}
    for path, row in known.items():
        if path not in there and not row.taken:
            row.delete()  # it was never taken, and is gone
    return sum(_look_at(watch, one, known.get(one.path), now) for one in found)


def _check_maker(watch: Watch) -> None:
    """Raise UsageError where whoever made a watch may bring in no more: it acts for them."""
    if not (watch.made_by.is_active and may(watch.made_by, ADD, watch.title_id)):
        words = f"{watch.made_by}, who made it, may bring in no more: end it, and make it anew."
        raise UsageError(words, code="not-allowed", where=str(watch))


def _follow_renamed(found: list[Found], known: dict[str, WatchedFile]) -> None:
    """Give files that were taken and then renamed or moved their new place."""
    there = {one.path for one in found}
    gone = {
        (int(row.inode), row.size_bytes, row.changed_ns): row
        for path, row in known.items()
        if row.taken and path not in there
    }
    for one in found:
        row = gone.get((one.inode, one.size_bytes, one.changed_ns))
        if one.path in known or row is None:
            continue
        del known[row.path]
        known[one.path] = row
        if row.attempt is not None and row.attempt.reel.path == row.path:
            row.attempt.reel.path = one.path
            row.attempt.reel.save(update_fields=["path"])
        row.path = one.path
        row.save(update_fields=["path"])


def _look_at(watch: Watch, one: Found, row: WatchedFile | None, now: datetime) -> bool:
    """Take one file if it has settled in a state that was not taken; returns whether it was."""
    state = (one.size_bytes, one.changed_ns)
    if row is None:
        row = WatchedFile(watch=watch, path=one.path, since=now, inode=one.inode)
    elif (row.size_bytes, row.changed_ns) == state:
        if row.taken or row.trouble or not _has_settled(watch, one, row.since, now):
            return False
        return _take(watch, row)
    row.size_bytes, row.changed_ns = state
    row.inode, row.since = one.inode, now
    row.attempt, row.taken, row.trouble = None, False, ""
    row.save()
    return False


def _has_settled(watch: Watch, one: Found, since: datetime, now: datetime) -> bool:
    still = timedelta(seconds=watch.settle_s)
    return one.is_marked and one.size_bytes > 0 and now - since >= still


def _brought_in(watch: Watch, row: WatchedFile) -> Attempt | None:
    """Return the attempt that somebody made of this very file before; None where nobody did."""
    state = {"reel__size_bytes": row.size_bytes, "reel__changed_ns": row.changed_ns}
    place = {"reel__root": watch.root, "reel__path": row.path}
    return Attempt.objects.filter(delivery__title=watch.title, **place, **state).first()


def _take(watch: Watch, row: WatchedFile) -> bool:
    try:
        read = read_file(watch.root, row.path)
        if (read.found["size_bytes"], read.found["changed_ns"]) != (row.size_bytes, row.changed_ns):
            return False  # it changed while it was read: the next look sees that
        row.attempt = _brought_in(watch, row) or add_attempt(
            watch.title,
            watch.delivery_name,
            watch.root,
            row.path,
            by=watch.made_by,
            reader=lambda *_: read,
            priority=LATER,
        )
    except (CoreError, FaultError) as error:
        row.trouble = str(error.text)[:400]
        row.save(update_fields=["trouble"])
        return False
    row.taken = True
    row.save(update_fields=["attempt", "taken"])
    return True
