"""`manage.py restore_backup FILE`: a backup in place of the database; the one before is kept."""

import fcntl
import os
import shutil
import sqlite3
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connections

from .backup import check


class Command(BaseCommand):
    help = "Put a backup in place of the database. The server must not run."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        source: Path = options["file"]
        live = settings.CONF.database
        try:
            check(source)
        except sqlite3.Error as error:
            raise CommandError(f"{source} is no backup that can be restored: {error}.") from error
        live.parent.mkdir(parents=True, exist_ok=True)
        with (live.parent / "serve.lock").open("w") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError as error:
                raise CommandError("Shapkeen runs on this data. Stop it first.") from error
            kept = self._replace(source, live)
        call_command("migrate", verbosity=0)
        self.stdout.write(f"Restored. {f'What was there is kept as {kept}.' if kept else ''}")

    def _replace(self, source: Path, live: Path) -> Path | None:
        """Put a copy in place of the database; returns where the one before went."""
        connections.close_all()
        part = live.with_name(f".{live.name}-{os.getpid()}.part")
        shutil.copyfile(source, part)
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        kept = None
        if live.exists():
            now = f"{datetime.now(UTC):%Y%m%d-%H%M%S}"
            kept = live.with_name(f"{live.name}.before-{now}")
            live.replace(kept)
            for ending in ("-wal", "-shm"):  # they belong to the one that went
                kin = live.with_name(live.name + ending)
                if kin.exists():
                    kin.replace(kept.with_name(kept.name + ending))
        part.replace(live)
        return kept
