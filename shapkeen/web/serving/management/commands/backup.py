"""`manage.py backup FILE`: a copy of the running database, whole whatever is written meanwhile."""

import os
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

PAGES, PAUSE_S = 2000, 0.005
"""At a time: whoever writes gets a turn between them."""


class Command(BaseCommand):
    help = "Copy the database by SQLite's own backup, while the server runs."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        goal: Path = options["file"]
        if goal.exists():
            raise CommandError(f"{goal} is there already. Name another file.")
        try:
            size = back_up(settings.CONF.database, goal)
        except (OSError, sqlite3.Error) as error:
            raise CommandError(f"No backup was written: {error}.") from error
        self.stdout.write(f"{goal}: {size / 1e6:.1f} MB. Media files are not in it.")


def back_up(source: Path, goal: Path) -> int:
    """Write a copy of a database, checked before it gets its name; returns its bytes.

    Raises OSError and sqlite3.Error.
    """
    part = goal.with_name(f".{goal.name}-{os.getpid()}.part")
    try:
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as live:
            live.execute("PRAGMA busy_timeout=20000")
            with closing(sqlite3.connect(part)) as copy:
                live.backup(copy, pages=PAGES, sleep=PAUSE_S)
                copy.execute("PRAGMA journal_mode=DELETE")
        check(part)
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        os.link(part, goal)  # never over another file
    finally:
        part.unlink(missing_ok=True)
    return goal.stat().st_size


def check(path: Path) -> None:
    """Raise sqlite3.DatabaseError where a database is not whole."""
    with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as found:
        told = found.execute("PRAGMA integrity_check").fetchone()[0]
        broken = found.execute("PRAGMA foreign_key_check").fetchone()
    if told != "ok" or broken:
        raise sqlite3.DatabaseError(f"it is not whole: {told if told != 'ok' else broken}")
