"""Children at once: forked from a process that has loaded what they need (forking.py).

Each process that asks for children has one such process of its own, begun when it first needs it
or (prepare) before; it ends when its asker does.
"""

import os
import select
import signal
import socket
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import IO

from .forking import NUMBER_BYTES

Load = Callable[[], None]
"""Imports what work needs; a function at the top of a module below shapkeen.web."""

BEGIN_S = 120.0
"""Until a child is there: loading takes seconds, and many on a busy machine."""

_loads: list[str] = []
_lock = threading.Lock()


def have_loaded(load: Load) -> None:
    """Have children load something before they are asked; called when an application starts."""
    name = f"{load.__module__}.{load.__qualname__}"
    if name not in _loads:
        _loads.append(name)


class Forked:
    """A child, with what subprocess.Popen offers of one.

    pid: of the process, and of its group. stdin, stdout: our ends of its pipes. returncode: how it
    ended, minus the signal where one ended it; None while it runs.
    """

    def __init__(self, stdin: IO[bytes], stdout: IO[bytes], told: int) -> None:
        """Wait for the child's number. told: what brings it, and later how it ended."""
        self.stdin, self.stdout, self._told = stdin, stdout, told
        self.returncode: int | None = None
        begun = select.select([told], [], [], BEGIN_S)[0]
        number = os.read(told, NUMBER_BYTES) if begun else b""
        if len(number) < NUMBER_BYTES:
            self.close()
            raise ConnectionResetError("the process that forks has ended, or hangs")
        self.pid = int.from_bytes(number, "little")

    def poll(self) -> int | None:
        """Return how it ended; None while it runs."""
        with suppress(subprocess.TimeoutExpired):
            return self.wait(0)
        return None

    def wait(self, timeout: float | None = None) -> int:
        """Return how it ended; raises TimeoutExpired where it runs on. timeout: in seconds."""
        if self.returncode is None:
            if not select.select([self._told], [], [], timeout)[0]:
                raise subprocess.TimeoutExpired("child", timeout or 0.0)
            status = os.read(self._told, NUMBER_BYTES)
            # Nothing: the process that forks is gone, and nobody will ever tell.
            whole = len(status) == NUMBER_BYTES
            self.returncode = (
                os.waitstatus_to_exitcode(int.from_bytes(status, "little"))
                if whole
                else -signal.SIGKILL
            )
            os.close(self._told)
        return self.returncode

    def close(self) -> None:
        """Close our ends: it was never there."""
        self.stdin.close()
        self.stdout.close()
        os.close(self._told)


@dataclass(frozen=True, slots=True)
class Child:
    """A started child process. errors: what it writes besides its answers."""

    process: Forked
    errors: IO[bytes]


@dataclass(frozen=True, slots=True)
class _Forker:
    """The process that forks. owner: whose it is; a fork of ours must not use it."""

    process: "subprocess.Popen[bytes]"
    control: socket.socket
    owner: int

    @property
    def is_ours(self) -> bool:
        return self.owner == os.getpid() and self.process.poll() is None


_forkers: list[_Forker] = []
"""One at most."""


def prepare() -> None:
    """Begin the process that forks, so that the first child need not wait for it."""
    with _lock:
        _forker()


def _forker() -> _Forker:
    """Return the process that forks, begun anew where there is none of ours; the lock is held."""
    if _forkers and _forkers[0].is_ours:
        return _forkers[0]
    for old in _forkers:
        old.control.close()
    _forkers.clear()
    ours, theirs = socket.socketpair()
    with theirs:
        process = subprocess.Popen(  # noqa: S603  (our own command)
            [sys.executable, "-m", "shapkeen.web.work.forking", *_loads],
            stdin=theirs.fileno(),
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
    _forkers.append(_Forker(process, ours, os.getpid()))
    return _forkers[0]


def start() -> Child:
    """Return a child that waits for its one request; raises OSError where none can be had."""
    errors = tempfile.TemporaryFile()  # noqa: SIM115  (open for as long as the child lives)
    try:
        with _lock:
            try:
                return Child(_forked(errors), errors)
            except OSError:  # it was ended by hand, or for want of memory
                for old in _forkers:
                    old.process.kill()
                    old.process.wait()
                return Child(_forked(errors), errors)
    except BaseException:
        errors.close()
        raise


def _forked(errors: IO[bytes]) -> Forked:
    """Return a new child that writes what is no answer into `errors`; the lock is held."""
    control = _forker().control
    pipes = [os.pipe() for _ in range(3)]
    (its_in, our_in), (our_out, its_out), (our_told, its_told) = pipes
    stdin, stdout = os.fdopen(our_in, "wb"), os.fdopen(our_out, "rb")
    try:
        socket.send_fds(control, [b"1"], [its_in, its_out, errors.fileno(), its_told])
    except OSError:
        stdin.close()
        stdout.close()
        os.close(our_told)
        raise
    finally:
        for one in (its_in, its_out, its_told):
            os.close(one)
    return Forked(stdin, stdout, our_told)
