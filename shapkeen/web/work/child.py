"""The child process in which files are read, decoded and measured, under limits.

Reads one JSON request from standard input and writes JSON lines to standard output: any number of
{"progress": [done, total]} and {"part": …}, then one {"result": …}, {"error": …} or {"fault": …}.
Standard input stays open as long as the parent lives: when it ends, so does this process with all
it started. It is a fork of a process that has loaded what it needs (forking.py).
"""

import importlib
import json
import os
import resource
import signal
import sys
import threading
import traceback
from collections.abc import Callable
from typing import Any

Answer = dict[str, Any]
Report = Callable[[int, int], None]
Work = Callable[[Answer, Report], Answer]


def say(**answer: object) -> None:
    """Tell the parent one thing."""
    sys.stdout.write(json.dumps(answer, allow_nan=False) + "\n")
    sys.stdout.flush()


def report(done: int, total: int) -> None:
    """Tell the parent how far the work is."""
    say(progress=[done, total])


def hand_over(part: Answer) -> None:
    """Give the parent a part of the result that it need not wait for the rest with."""
    say(part=part)


def named(name: str) -> Callable[..., Any]:
    """Return a function by its module and name."""
    module, _, function = name.rpartition(".")
    found: Callable[..., Any] = getattr(importlib.import_module(module), function)
    return found


def _limit(memory_bytes: int, time_s: int) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    # The softer limit first: its signal tells that it was time, a kill would not.
    resource.setrlimit(resource.RLIMIT_CPU, (time_s, time_s + 5))
    resource.setrlimit(resource.RLIMIT_NOFILE, (256, 256))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _end_with_parent() -> None:
    """Wait for the end of standard input; then end the whole process group."""
    while os.read(sys.stdin.fileno(), 1 << 16):
        pass
    os.killpg(os.getpgid(0), signal.SIGKILL)


def _request() -> Answer:
    """Return the first line of standard input, read without a buffer that would swallow more."""
    line = b""
    while not line.endswith(b"\n"):
        piece = os.read(sys.stdin.fileno(), 1 << 16)
        if not piece:
            raise SystemExit(1)
        line += piece
    request: Answer = json.loads(line)
    return request


def main() -> int:
    """Do one request and say its result."""
    from ...core.errors import CoreError, InternalError
    from ...core.reported.error import error_object

    request = _request()
    threading.Thread(target=_end_with_parent, daemon=True).start()
    _limit(request["memory_bytes"], request["time_s"])
    try:
        say(result=named(request["work"])(request, report))
    except InternalError as error:
        say(fault={**error_object(error), "details": traceback.format_exc()})
    except CoreError as error:
        say(error=error_object(error))
    except MemoryError:
        say(fault={"code": "memory-limit", "details": traceback.format_exc()})
    except BrokenPipeError:
        raise
    except Exception:  # noqa: BLE001  (the border: whatever it is, the parent must learn of it)
        say(fault={"code": "internal", "details": traceback.format_exc()})
    else:
        return 0
    return 1
