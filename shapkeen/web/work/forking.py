"""The process that children (child.py) are forked from: it has loaded what they need, once.

Loading takes seconds of the processor, a fork takes some milliseconds, and what was loaded is
shared. It reads no file and keeps no request, so every child begins clean. Usage, by ready.py:
python -m shapkeen.web.work.forking NAME…, functions to call first. Its standard input is a socket:
each message brings four descriptors, a child's standard input, output and errors, and a pipe that
is told the child's number, and how it ended once it has. Its end is this process's end.
"""

import contextlib
import gc
import os
import selectors
import signal
import socket
import sys
import traceback

from . import child, giving_way

NUMBER_BYTES = 4
"""Of a child's number, and of how it ended, as waitpid(2) tells it."""


def main(loads: list[str]) -> None:
    """Fork a child for each message, until the other end closes."""
    giving_way.weigh_session()
    for name in loads:
        child.named(name)()
    gc.collect()
    gc.freeze()  # pages that the collector does not touch stay shared
    control = socket.socket(fileno=os.dup(sys.stdin.fileno()))
    woken, wakes = os.pipe()
    os.set_blocking(wakes, False)
    signal.set_wakeup_fd(wakes)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    telling: dict[int, int] = {}
    with selectors.DefaultSelector() as selector:
        selector.register(control, selectors.EVENT_READ)
        selector.register(woken, selectors.EVENT_READ)
        while True:
            for key, _ in selector.select():
                if key.fd == woken:
                    os.read(woken, 512)
                    _reap(telling)
                    continue
                said, given, _, _ = socket.recv_fds(control, 1, 4)
                if not said:
                    return
                ours = (control.fileno(), woken, wakes, selector.fileno(), *telling.values())
                _begin(given, telling, ours)


def _begin(given: list[int], telling: dict[int, int], ours: tuple[int, ...]) -> None:
    """Fork a child with these descriptors; ours: what it must not hold."""
    number = os.fork()
    if number == 0:
        _be_child(given, ours)
    told = given[3]
    telling[number] = told
    with contextlib.suppress(BrokenPipeError):
        os.write(told, number.to_bytes(NUMBER_BYTES, "little"))
    for one in given[:3]:
        os.close(one)


def _be_child(given: list[int], ours: tuple[int, ...]) -> None:
    """Do one request in this process, and end it."""
    status = 1
    try:
        os.setsid()  # all that it starts can be ended with it
        giving_way.weigh_session()
        signal.set_wakeup_fd(-1)
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        for place, one in enumerate(given[:3]):
            os.dup2(one, place)
        for one in (*given, *ours):
            os.close(one)
        gc.unfreeze()
        with contextlib.suppress(BrokenPipeError):
            status = child.main()
    except SystemExit as end:
        status = end.code if isinstance(end.code, int) else 1
    except BaseException:  # noqa: BLE001  (a fork must never come back into the loop above)
        traceback.print_exc()
    finally:
        os._exit(status)


def _reap(telling: dict[int, int]) -> None:
    """Tell of every child that has ended how it did."""
    while telling:
        number, status = os.waitpid(-1, os.WNOHANG)
        if number == 0:
            return
        told = telling.pop(number)
        with contextlib.suppress(BrokenPipeError):
            os.write(told, status.to_bytes(NUMBER_BYTES, "little"))
        os.close(told)


if __name__ == "__main__":
    main(sys.argv[1:])
