"""Starting child processes (child.py) and listening to them."""

import contextlib
import ctypes
import json
import os
import selectors
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator
from typing import Any

from django.conf import settings

from ...core.errors import CoreError, UnreadableFileError, UsageError

Progress = Callable[[int, int], bool]
Wanted = Callable[[], bool]
ASK_S = 0.5
USAGE_CODES = frozenset({"no-common-frame", "bad-promise", "bad-call"})
PR_SET_PDEATHSIG = 1


class StoppedError(Exception):
    """Someone asked the work to stop."""


class ChildDiedError(Exception):
    """The child ended without an answer: the decoder crashed or ran into a limit."""


def _die_with_parent() -> None:
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)


def run_child(
    work: str,
    *,
    progress: Progress | None = None,
    wanted: Wanted | None = None,
    time_s: int | None = None,
    **request: object,
) -> dict[str, Any]:
    """Return the child's result.

    progress(done, total), and wanted() twice a second, give False to stop. Raises the core's
    own errors as the child met them, StoppedError, and ChildDiedError.
    """
    conf = settings.CONF
    asked = {
        "work": work,
        "memory_bytes": conf.child_memory_bytes,
        "time_s": time_s or conf.child_time_s,
        **request,
    }
    command = [sys.executable, "-m", "shapkeen.web.jobs.child"]
    # preexec_fn: the child must die with its parent. It only calls prctl, which is safe.
    with subprocess.Popen(  # noqa: S603
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        preexec_fn=_die_with_parent,  # noqa: PLW1509
    ) as child:
        try:
            answer = _converse(child, json.dumps(asked), progress, wanted)
        finally:
            child.kill()
    if answer is None:
        raise ChildDiedError
    if "error" in answer:
        raise _error_from(answer["error"])
    result: dict[str, Any] = answer["result"]
    return result


def _converse(
    child: "subprocess.Popen[bytes]",
    asked: str,
    progress: Progress | None,
    wanted: Wanted | None,
) -> dict[str, Any] | None:
    assert child.stdin is not None  # noqa: S101  (a pipe)
    with contextlib.suppress(BrokenPipeError):
        child.stdin.write(f"{asked}\n".encode())
        child.stdin.close()
    for line in _lines(child, wanted):
        try:
            answer: dict[str, Any] = json.loads(line)
        except ValueError:
            continue  # a library wrote there
        if "progress" not in answer:
            return answer
        if progress is not None and not progress(*answer["progress"]):
            raise StoppedError
    return None


def _lines(child: "subprocess.Popen[bytes]", wanted: Wanted | None) -> Iterator[bytes]:
    """Yield what the child says, asking between whether the work is still wanted."""
    assert child.stdout is not None  # noqa: S101  (a pipe)
    said = b""
    with selectors.DefaultSelector() as selector:
        selector.register(child.stdout, selectors.EVENT_READ)
        while True:
            if not selector.select(timeout=ASK_S):
                if wanted is not None and not wanted():
                    raise StoppedError
                continue
            piece = os.read(child.stdout.fileno(), 1 << 16)
            if not piece:
                return
            *whole, said = (said + piece).split(b"\n")
            yield from whole


def _error_from(error: dict[str, str]) -> CoreError:
    kind = UsageError if error.get("code") in USAGE_CODES else UnreadableFileError
    return kind(error["text"], code=error["code"], where=error.get("where", ""))
