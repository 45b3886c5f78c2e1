"""`manage.py watch_folders`: looks into watched folders until it is stopped; run by serve.

A process of its own: a share that does not answer holds up nothing else. Local folders wake it by
events of the system; shares, of which there are none, are looked into every RARE_S.
"""

import threading
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connections
from watchdog.events import FileSystemEvent, FileSystemEventHandler
from watchdog.observers import Observer

from .....core.errors import CoreError
from ....library import roots
from ...models import Watch, WatchedFile
from ...watching import look

OFTEN_S, RARE_S = 2.0, 10.0
"""Between looks while something settles, and while nothing does."""


class Waker(FileSystemEventHandler):
    """Wakes whoever waits, whatever happened."""

    def __init__(self) -> None:
        self.woken = threading.Event()

    def on_any_event(self, event: FileSystemEvent) -> None:
        """Wake; what is only read or closed changes nothing."""
        if event.event_type in ("created", "modified", "moved", "deleted", "closed"):
            self.woken.set()


class Command(BaseCommand):
    help = "Look into watched folders until it is stopped."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--once", action="store_true", help="look once, and end")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["once"]:
            self.stdout.write(f"{look()} taken")
            return
        waker, heard = Waker(), dict[str, Any]()
        observer = Observer()
        observer.start()
        while True:
            self._listen(observer, waker, heard)
            look()
            rests = self._rests()
            connections.close_all()
            waker.woken.wait(rests)
            waker.woken.clear()

    def _listen(self, observer: Any, waker: Waker, heard: dict[str, Any]) -> None:
        """Hear events of the folders that are watched now, and of no others."""
        wanted = set()
        for watch in Watch.objects.filter(paused=False):
            with suppress(CoreError):
                wanted.add(str(roots.resolve(watch.root, watch.folder)))
        for folder in set(heard) - wanted:
            observer.unschedule(heard.pop(folder))
        for folder in wanted - set(heard):
            with suppress(OSError):  # too many, or a file system without events: it is polled
                if Path(folder).is_dir():
                    heard[folder] = observer.schedule(waker, folder, recursive=True)

    def _rests(self) -> float:
        settling = WatchedFile.objects.filter(taken=False, trouble="", watch__paused=False)
        return OFTEN_S if settling.exists() else RARE_S
