"""The one boundary to child processes (child.py): starting them, listening, ending them.

Whose fault it is when one ends without an answer is decided here. A decoder that crashes twice at
the same place of a file tells of the file; a limit, a kill, an exception or storage that does not
answer never does.
"""

import contextlib
import json
import os
import selectors
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from django.conf import settings

from ...core.errors import CoreError, UnreadableFileError, UsageError
from . import ready
from .child import Work
from .errors import FaultError, StoppedError

Progress = Callable[[int, int], bool]
Wanted = Callable[[], bool]
Part = Callable[[dict[str, Any]], bool]
ASK_S, END_GRACE_S = 0.5, 0.2
USAGE_CODES = frozenset({"no-common-frame", "bad-promise", "bad-call"})
CRASHES = frozenset({signal.SIGSEGV, signal.SIGABRT, signal.SIGBUS, signal.SIGFPE, signal.SIGILL})
"""Signals by which a decoder goes down of itself."""
SAME_PLACE = 64
"""Steps of progress: decoders that run in several threads go down a few frames apart."""
STALL_S = 120.0
"""Without an answer and without using the processor: it waits for storage."""
STALL_ASK_S = 5.0
STDERR_BYTES = 16_384
FAULTS = {
    "memory-limit": (
        "Measuring needs more memory than one job may take. The limit is SHAPKEEN_CHILD_MEMORY; "
        "the file is not to blame."
    ),
    "internal": "A fault of Shapkeen ended the work; the file is not to blame. The log tells more.",
}


@dataclass(frozen=True, slots=True)
class Limits:
    """What one child may use: bytes of memory, seconds of processor time, seconds by the clock."""

    memory_bytes: int
    time_s: int
    wall_s: float


@dataclass(frozen=True, slots=True)
class _Heard:
    """Who listens to a child."""

    progress: Progress | None
    wanted: Wanted | None
    part: Part | None


@dataclass(frozen=True, slots=True)
class _Death:
    """How a child ended without an answer. place: the last progress it told."""

    signal: int
    place: int
    told: str


def run_child(
    work: Work,
    *,
    progress: Progress | None = None,
    wanted: Wanted | None = None,
    part: Part | None = None,
    time_s: int | None = None,
    wall_s: float | None = None,
    **request: object,
) -> dict[str, Any]:
    """Return what `work` gives for a request, done in a child process.

    work: a function at the top of a module below shapkeen.web. progress(done, total), part(what it
    hands over before its end), and wanted() twice a second, give False to stop. time_s,
    wall_s: limits other than the configured ones.
    Raises the core's own errors as the child met them, StoppedError, and FaultError.
    """
    conf = settings.CONF
    limits = Limits(
        conf.child_memory_bytes,
        time_s or conf.child_time_s,
        wall_s or (time_s * 4 if time_s else conf.child_wall_s),
    )
    asked = {"work": f"{work.__module__}.{work.__qualname__}", **request}
    heard = _Heard(progress, wanted, part)
    deaths = []
    for _ in range(2):
        answer = _run_once(asked, limits, heard)
        if not isinstance(answer, _Death):
            return answer
        _raise_unless_crash(answer)
        deaths.append(answer)
    first, second = deaths
    same = first.signal == second.signal and abs(first.place - second.place) <= SAME_PLACE
    name = signal.Signals(second.signal).name
    if not same:
        raise FaultError(
            "The decoder went down twice, at different places, so nothing is told of the file. "
            "Measure again.",
            code="decoder-unsteady",
            details=f"{name} at {first.place} and {second.place}\n{second.told}",
        )
    at = f" {second.place} steps in" if second.place else " at its start"
    raise UnreadableFileError(
        f"Decoding brought the decoder down twice at the same place,{at}. The file is damaged "
        "there: copy or export it again.",
        code="decoder-crashed",
        where=name,
    )


def _raise_unless_crash(death: _Death) -> None:
    """Raise FaultError where a child did not crash, but was ended."""
    if death.signal in CRASHES:
        return
    details = f"ended by signal {death.signal}\n{death.told}"
    if death.signal == signal.SIGXCPU:
        text = (
            "Measuring took more processor time than one job may take. The limit is "
            "SHAPKEEN_CHILD_TIME; the file is not to blame."
        )
        raise FaultError(text, code="time-limit", details=details)
    text = (
        "The process that measured was ended from outside, perhaps for want of memory; the file is "
        "not to blame. Measure again."
    )
    raise FaultError(text, code="child-killed", details=details)


def _run_once(
    asked: dict[str, object], limits: Limits, heard: "_Heard"
) -> "dict[str, Any] | _Death":
    request = {**asked, "memory_bytes": limits.memory_bytes, "time_s": limits.time_s}
    child = ready.start()
    with child.errors:
        listener = _Listener(child.process, limits, heard)
        code: int | None = None
        try:
            answer = listener.converse(json.dumps(request))
            code = _end(child.process, grace_s=END_GRACE_S)
        finally:
            if code is None:  # nobody wants what it is doing any more
                code = _end(child.process, grace_s=0)
        told = _tail(child.errors)
    if answer is None:
        return _Death(-code if code < 0 else 0, listener.place, told)
    if "fault" in answer:
        raise _fault_from(answer["fault"], told)
    if "error" in answer:
        raise _error_from(answer["error"])
    result: dict[str, Any] = answer["result"]
    return result


def _end(child: ready.Forked, *, grace_s: float) -> int:
    """End a child with all it started; return how it ended.

    grace_s: it may be ending of itself: then its own signal is what counts.
    """
    with contextlib.suppress(subprocess.TimeoutExpired):
        child.wait(timeout=grace_s)
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(child.pid, signal.SIGKILL)
    for pipe in (child.stdin, child.stdout):
        with contextlib.suppress(BrokenPipeError):
            pipe.close()
    try:
        return child.wait(timeout=2)
    except subprocess.TimeoutExpired:
        return -signal.SIGKILL  # it waits for storage, and ends when that answers


def _answer_in(line: bytes) -> dict[str, Any] | None:
    """Return what a line of the child's says; None where a library wrote it."""
    try:
        answer = json.loads(line)
    except ValueError:
        return None
    return answer if isinstance(answer, dict) else None


def _tail(errors: IO[bytes]) -> str:
    size = errors.seek(0, os.SEEK_END)
    errors.seek(max(size - STDERR_BYTES, 0))
    return errors.read().decode(errors="replace")


@dataclass(slots=True)
class _Listener:
    """Listens to one child. place: the last progress it told."""

    child: ready.Forked
    limits: Limits
    heard: _Heard
    place: int = 0

    def converse(self, asked: str) -> dict[str, Any] | None:
        """Return the child's answer; None where it ended without one."""
        with contextlib.suppress(BrokenPipeError):
            self.child.stdin.write(f"{asked}\n".encode())
            self.child.stdin.flush()
        for line in self._lines():
            answer = _answer_in(line)
            if answer is None:
                continue
            if "part" in answer:
                go_on = self.heard.part is None or self.heard.part(answer["part"])
            elif "progress" in answer:
                self.place = answer["progress"][0]
                go_on = self.heard.progress is None or self.heard.progress(*answer["progress"])
            else:
                return answer
            if not go_on:
                raise StoppedError
        return None

    def _lines(self) -> Iterator[bytes]:
        """Yield what the child says, asking between whether the work is still wanted."""
        said, ends = b"", time.monotonic() + self.limits.wall_s
        stall = _Stall(self.child.pid)
        with selectors.DefaultSelector() as selector:
            selector.register(self.child.stdout, selectors.EVENT_READ)
            while True:
                if time.monotonic() > ends:
                    raise FaultError(
                        f"Not done after {self.limits.wall_s / 60:.0f} minutes by the clock, which "
                        "is the limit (SHAPKEEN_CHILD_WALL). Is the machine, or the storage, "
                        "overloaded?",
                        code="wall-limit",
                    )
                if not selector.select(timeout=ASK_S):
                    if self.heard.wanted is not None and not self.heard.wanted():
                        raise StoppedError
                    stall.check()
                    continue
                piece = os.read(self.child.stdout.fileno(), 1 << 16)
                if not piece:
                    return
                stall.reset()
                *whole, said = (said + piece).split(b"\n")
                yield from whole


class _Stall:
    """Notices children that neither speak nor use the processor."""

    def __init__(self, group: int) -> None:
        self._group = group
        self._ticks = -1
        self._since = self._asked = time.monotonic()

    def reset(self) -> None:
        """The child has spoken."""
        self._since = time.monotonic()

    def check(self) -> None:
        """Raise FaultError where nothing has happened for too long."""
        now = time.monotonic()
        if now - self._asked < STALL_ASK_S:
            return
        self._asked, ticks = now, _ticks_of(self._group)
        if ticks != self._ticks:
            self._ticks, self._since = ticks, now
        if now - self._since > STALL_S:
            raise FaultError(
                f"The storage has not answered for {STALL_S / 60:.0f} minutes. Check that it can "
                "be reached, then start again; nothing is lost.",
                code="storage-stalled",
            )


def _ticks_of(group: int) -> int:
    """Return processor time, in ticks, that the processes of a group have used."""
    ticks = 0
    for folder in Path("/proc").iterdir():
        if not folder.name.isdigit():
            continue
        with contextlib.suppress(OSError, ValueError, IndexError):
            # Behind the name in brackets: state, parent, group, …; times are fields 14 and 15.
            fields = (folder / "stat").read_text().rpartition(")")[2].split()
            if int(fields[2]) == group:
                ticks += int(fields[11]) + int(fields[12])
    return ticks


def _error_from(error: dict[str, str]) -> CoreError:
    kind = UsageError if error.get("code") in USAGE_CODES else UnreadableFileError
    made = kind(error["text"], code=error["code"], where=error.get("where", ""))
    made.file = error.get("file", "")
    return made


def _fault_from(fault: dict[str, str], told: str) -> FaultError:
    code = fault["code"]
    text = FAULTS.get(code) or fault.get("text") or FAULTS["internal"]
    return FaultError(text, code=code, details=f"{fault.get('details', '')}\n{told}".strip())
