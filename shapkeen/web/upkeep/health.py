"""Whether this installation can work: each check with its answer in plain words."""

import json
import os
import shutil
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor

from ...core.errors import UsageError
from ..library import roots
from ..work.room import missing_words

STATE_FILE, STATE_OLD_S = "serve.state", 15.0
"""Written by the supervisor every few seconds, with how many workers live."""


@dataclass(frozen=True, slots=True)
class Check:
    """One thing that was looked at. name: for machines; words: for people, with what to do."""

    name: str
    is_well: bool
    words: str


def tell_state(workers: int) -> None:
    """Keep that the supervisor lives, and how many of its workers do."""
    path = settings.CONF.data_dir / STATE_FILE
    part = path.with_suffix(".part")
    part.write_text(json.dumps({"at": time.time(), "workers": workers}))
    part.replace(path)


def checks() -> list[Check]:
    """Return every check; none of them waits long or writes more than a byte."""
    return [check() for check in CHECKS]


def is_ready(found: list[Check]) -> bool:
    """Return whether people can be sent here."""
    return all(one.is_well for one in found)


def _database() -> Check:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        executor = MigrationExecutor(connection)
        behind = executor.migration_plan(executor.loader.graph.leaf_nodes())
    except DatabaseError as error:
        return Check("database", False, f"The database cannot be read: {error}.")
    if behind:
        words = f"The database is {len(behind)} steps behind: run manage.py migrate, or serve."
        return Check("database", False, words)
    return Check("database", True, "The database answers and is up to date.")


def _room() -> Check:
    words = missing_words()
    free = shutil.disk_usage(settings.CONF.data_dir).free
    return Check("room", not words, words or f"{free / 1e9:.1f} GB are free where data is kept.")


def _writable() -> Check:
    folder: Path = settings.CONF.data_dir
    if os.access(folder, os.W_OK | os.X_OK):
        return Check("data", True, "Data can be written.")
    return Check("data", False, "Data cannot be written: give this account rights there.")


def _media() -> Check:
    away = sorted(name for name in roots.roots() if name != "uploads" and not _is_there(name))
    if not away:
        return Check("media", True, "Every media root can be read.")
    told = ", ".join(away)
    return Check("media", False, f"Away or closed to Shapkeen: media root {told}. Bring it back.")


def _is_there(root: str) -> bool:
    try:
        roots.check_root(root)
    except UsageError:
        return False
    return True


def _workers() -> Check:
    path = settings.CONF.data_dir / STATE_FILE
    try:
        told = json.loads(path.read_text())
    except (OSError, ValueError):
        return Check("workers", True, "Workers are not run by serve here; nothing tells of them.")
    if time.time() - told["at"] > STATE_OLD_S:
        return Check("workers", False, "The supervisor does not live: start manage.py serve again.")
    if not told["workers"]:
        return Check("workers", False, "No worker lives, so nothing is measured: see the log.")
    return Check("workers", True, f"{told['workers']} workers live.")


CHECKS: tuple[Callable[[], Check], ...] = (_database, _room, _writable, _media, _workers)
