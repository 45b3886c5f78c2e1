"""`manage.py serve`: web server and background workers under one supervisor.

A worker that dies is started again, and what it was doing goes back into the queue. Ctrl-C or
SIGTERM stops everything that was started.
"""

import fcntl
import math
import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from types import FrameType
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import DatabaseError, connections

from .....core.errors import CoreError
from ....api.uploads import kept_parts
from ....api.uploads import tidy as tidy_uploads
from ....arriving.services import kept_uploads
from ....bench.services import measure
from ....config.conf import SURVEY_WORKERS
from ....library.models import Attempt, Delivery, Reel
from ....library.tidying import KEPT_DAYS, empty
from ....library.uploads import remove_leftovers as remove_half_uploads
from ....people.views import is_empty
from ....upkeep.fitting import cores_here, fit, fitting_web, machine_here, memory_here
from ....upkeep.health import STATE_FILE, tell_state
from ....work.made import remove_leftovers
from ....work.models import Job
from ....work.room import missing_words
from ....work.services import adopt_orphans, free_all, give_back
from ...lifeline import GIVES_WAY

POLL_S = 0.2
TIDY_S = 3600
"""Between looks into the bin for what has lain there long enough."""
ADOPT_S = 5.0
ROOM_S = 2.0
DEMO_WORKERS = 2
"""Its files are short: each is measured in one process."""
THREADS, HEADER_S = 48, 10
HELPERS = ("watch_folders", "send_hooks")
LIFELINE = "shapkeen.web.serving.lifeline"
FIRST_WAIT_S, LONGEST_WAIT_S, SETTLED_AFTER_S = 0.5, 30.0, 30.0
GREET_TRIES = 600
"""Of a tenth of a second, until the web server listens: on a busy machine it begins slowly."""
STOP_WAIT_S = 4.0
"""A survey under way is given up then; the queue starts it again with the next server."""


@dataclass
class Keeper:
    """One process that is kept alive."""

    command: list[str]
    worker_id: str = ""
    process: "subprocess.Popen[bytes] | None" = None
    started: float = 0.0
    failures: int = 0
    not_before: float = field(default=0.0)
    owes: bool = False
    """Whether the tasks of a worker that ended were not given back yet."""

    def start(self) -> None:
        # A session of its own, so that it can be ended with all it started. The pipe to its
        # standard input ends when this process does, however that comes about (lifeline.py).
        self.process = subprocess.Popen(  # noqa: S603  (our own command)
            self.command, stdin=subprocess.PIPE, start_new_session=True
        )
        self.started = time.monotonic()

    @property
    def is_alive(self) -> bool:
        """Return whether its process runs."""
        return self.process is not None and self.process.poll() is None

    def look_after(self) -> None:
        """Start the process, again if it ended, with growing pauses if it keeps ending."""
        if self.owes:
            with suppress(DatabaseError):  # a full disk: tried again
                give_back(self.worker_id)
                self.owes = False
        if self.process is None:
            if time.monotonic() >= self.not_before:
                self.start()
            return
        if self.process.poll() is None:
            return
        self.owes = bool(self.worker_id)
        settled = time.monotonic() - self.started > SETTLED_AFTER_S
        self.failures = 0 if settled else self.failures + 1
        pause = min(FIRST_WAIT_S * 2**self.failures, LONGEST_WAIT_S)
        self.process, self.not_before = None, time.monotonic() + pause


class Command(BaseCommand):
    help = "Run the web server and the background workers together."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--port", type=int, default=settings.CONF.port)
        parser.add_argument("--workers", type=int, default=None)
        parser.add_argument("--demo", action="store_true", help="fill the library first")
        parser.add_argument("--greeting", default="", help="a line to print with the address")

    def handle(self, *args: Any, **options: Any) -> None:
        lock = self._lock(settings.CONF.data_dir / "serve.lock")
        settings.CONF.data_dir.chmod(0o700)  # made by an older version, anyone could read it
        self._check_port(options["port"])
        self._wait_for_room()
        self._prepare(demo=options["demo"])
        host = socket.gethostname()
        _take_up_again(host)
        keepers = [Keeper(_web(options["port"])), *(Keeper(_helper(name)) for name in HELPERS)]
        wanted = options["workers"] or (DEMO_WORKERS if options["demo"] else settings.CONF.workers)
        for number in range(wanted or _fitting_jobs()):
            worker_id = f"{host}-{os.getpid()}-{number}"
            keepers.append(Keeper(_worker(worker_id), worker_id))
        self._stopping = False
        for name in (signal.SIGINT, signal.SIGTERM):
            signal.signal(name, self._stop)
        try:
            for keeper in keepers:
                keeper.start()
            self._greet(options["port"], options["greeting"])
            adopted = tidied = -math.inf
            while not self._stopping:
                for keeper in keepers:
                    keeper.look_after()
                if time.monotonic() - adopted > ADOPT_S:
                    adopted = time.monotonic()
                    with suppress(OSError):
                        tell_state(sum(one.is_alive for one in keepers if one.worker_id))
                    with suppress(DatabaseError):
                        adopt_orphans()
                if time.monotonic() - tidied > TIDY_S:
                    tidied = time.monotonic()
                    with suppress(DatabaseError, OSError):
                        empty(by=None, older_than_days=KEPT_DAYS)
                        tidy_uploads()
                time.sleep(POLL_S)
        finally:
            _end(keepers)
            with suppress(DatabaseError):  # the next start does it, too
                give_back(f"{host}-{os.getpid()}-")
            (settings.CONF.data_dir / STATE_FILE).unlink(missing_ok=True)
            lock.close()
        self.stdout.write("Stopped.")

    def _wait_for_room(self) -> None:
        """Wait until there is room on the disk; whatever is written to a full one is half."""
        told = ""
        while words := missing_words():
            if words != told:
                self.stdout.write(words)
                self.stdout.flush()
            told = words
            time.sleep(ROOM_S)

    def _prepare(self, *, demo: bool) -> None:
        """Bring database and static files up to date; both are quick when nothing changed."""
        call_command("migrate", verbosity=0)
        marks = "".join(sorted(f"{p}{p.stat().st_mtime_ns}" for p in _static_files()))
        stamp = settings.CONF.data_dir / "static.stamp"
        if not stamp.exists() or stamp.read_text() != marks:
            call_command("collectstatic", interactive=False, verbosity=0)
            stamp.write_text(marks)
        if demo:
            call_command("fill_demo", stdout=self.stdout)
        connections.close_all()

    def _stop(self, _number: int, _frame: FrameType | None) -> None:
        self._stopping = True

    def _lock(self, path: Path) -> Any:
        path.parent.mkdir(parents=True, exist_ok=True)
        file = path.open("w")
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise CommandError(
                "Shapkeen runs on this data already. Stop it first, or set SHAPKEEN_DATA."
            ) from error
        return file

    def _check_port(self, port: int) -> None:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((settings.CONF.bind, port))
            except OSError as error:
                raise CommandError(
                    f"Port {port} is taken. Set SHAPKEEN_PORT to a free one."
                ) from error

    def _greet(self, port: int, greeting: str) -> None:
        for _ in range(GREET_TRIES):
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.1)
        self.stdout.write(f"\n  Shapkeen is at  http://127.0.0.1:{port}/")
        if greeting:
            self.stdout.write(greeting)
        elif is_empty():
            self.stdout.write("  Nobody has an account yet: open it to make the first one.")
        connections.close_all()
        self.stdout.write("  Ctrl-C stops it.")
        self.stdout.flush()


def _take_up_again(host: str) -> None:
    """Put in order what an earlier life left: jobs, tasks, uploads, half made files.

    Safe, since this process holds the lock of the data: no other server runs on it.
    """
    give_back(f"{host}-")
    free_all()
    reels = Reel.objects.filter(root="uploads").values_list("path", flat=True)
    remove_half_uploads({*reels, *kept_uploads(), *kept_parts()})
    remove_leftovers()
    for delivery in Delivery.objects.filter(promise_digest="").select_related("title__master"):
        with suppress(CoreError):
            delivery.refresh_digest()
    adopt_orphans()
    for attempt in Attempt.objects.filter(judgement=None):
        if Job.objects.latest_of(Attempt.WORK, attempt.pk) is None:
            measure(attempt)


def _fitting_jobs() -> int:
    """Return how many jobs fit this machine, and have each use as many processes as fit."""
    fitting = fit(machine_here())
    os.environ.setdefault(SURVEY_WORKERS, str(fitting.processes))  # the workers read it
    return fitting.jobs


def _static_files() -> list[Path]:
    return [path for folder in settings.STATICFILES_DIRS for path in Path(folder).rglob("*.*")]


def _web(port: int) -> list[str]:
    processes = settings.CONF.web_processes or fitting_web(cores_here(), memory_here())
    # Headers are waited for outside Python, and not for long; each request has a thread, of which
    # there are so many that slow uploads leave some (decision 0020).
    command = [sys.executable, "-m", LIFELINE, "granian", "shapkeen.web.config.wsgi:application"]
    command += ["--interface", "wsgi", "--host", settings.CONF.bind, "--port", f"{port}", "--no-ws"]
    command += ["--workers", f"{processes}", "--blocking-threads", f"{THREADS}"]
    command += ["--backpressure", "256"]
    command += ["--http1-header-read-timeout", f"{HEADER_S * 1000}", "--log-level", "error"]
    return [*command, "--workers-kill-timeout", "3"]


def _helper(command: str) -> list[str]:
    return [sys.executable, "-m", LIFELINE, "django", command]


def _worker(worker_id: str) -> list[str]:
    # A page takes some tens of milliseconds and somebody waits; a survey takes minutes.
    command = [sys.executable, "-m", LIFELINE, GIVES_WAY, "django", "db_worker"]
    command += ["--queue-name", "*", "--interval", "0.3", "--no-startup-delay", "--no-reload"]
    return [*command, "--worker-id", worker_id, "-v", "0"]


def _end(keepers: list[Keeper]) -> None:
    """Ask every process to end, wait, then end those that did not."""
    alive = [k.process for k in keepers if k.process is not None]
    alive = [process for process in alive if process.poll() is None]
    for process in alive:
        process.terminate()
    deadline = time.monotonic() + STOP_WAIT_S
    while alive and time.monotonic() < deadline:
        alive = [process for process in alive if process.poll() is None]
        time.sleep(0.05)
    for process in alive:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()
