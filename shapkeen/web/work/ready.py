"""Children that are started ahead, and have loaded what they need: no click waits for libraries.

A child waits for its one request (child.py) for as long as the process that started it lives.
"""

import subprocess
import sys
import tempfile
import threading
from collections import defaultdict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import IO

Load = Callable[[], None]
"""Imports what the work needs; a function at the top of a module below shapkeen.web."""
KEPT_READY = 2
"""Children that wait at a time: a moment is drawn of two files."""


@dataclass(frozen=True, slots=True)
class Child:
    """A started child process. errors: what it writes besides its answers."""

    process: "subprocess.Popen[bytes]"
    errors: IO[bytes]


_waiting: defaultdict[str, list[Child]] = defaultdict(list)
_lock = threading.Lock()


def start(load: Load | None = None) -> Child:
    """Start a child; load: what it calls before it is asked."""
    command = [sys.executable, "-m", "shapkeen.web.work.child"]
    command += [_name(load)] if load else []
    errors = tempfile.TemporaryFile()  # noqa: SIM115  (open for as long as the child lives)
    # A session of its own, so that all it starts can be ended at once; the pipe to its standard
    # input tells it when this process ends (no preexec_fn: this one has threads).
    process = subprocess.Popen(  # noqa: S603  (our own command)
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=errors,
        start_new_session=True,
    )
    return Child(process, errors)


def take(load: Load) -> Child:
    """Return a child that has loaded already, or one that begins to now."""
    with _lock:
        while _waiting[_name(load)]:
            child = _waiting[_name(load)].pop(0)
            if child.process.poll() is None:
                return child
            child.errors.close()
    return start(load)


def refill(load: Load) -> None:
    """Have children wait again; where none can be started now, the next one begins when asked."""
    with _lock, suppress(OSError):
        waiting = _waiting[_name(load)]
        while len(waiting) < KEPT_READY:
            waiting.append(start(load))


def _name(load: Load) -> str:
    return f"{load.__module__}.{load.__qualname__}"
