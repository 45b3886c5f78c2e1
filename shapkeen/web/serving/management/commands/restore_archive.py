"""`manage.py restore_archive FOLDER`: bring the titles of an archive into this library."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from .....core.errors import CoreError
from ....archive.restoring import restore_bag


class Command(BaseCommand):
    help = "Verify an archive, then bring its titles into this library."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            titles = restore_bag(options["folder"])
        except CoreError as error:
            raise CommandError(error.text) from error
        names = ", ".join(title.name for title in titles)
        self.stdout.write(f"Restored: {names}. Its exports are measured when the server runs.")
