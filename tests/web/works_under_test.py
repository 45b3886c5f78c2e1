"""Functions that the child process does in tests of its boundary."""

import os
import resource
import signal
import sys
import time

from shapkeen.web.work.child import Answer, Report, hand_over


def crash_at(request: Answer, report: Report) -> Answer:
    """Tell progress, then go down as a decoder does; at a random place where asked to."""
    place = request["place"] if request["place"] >= 0 else time.monotonic_ns() % 1_000_000_000
    report(place, 1_000_000_000)
    os.kill(os.getpid(), request.get("signal", signal.SIGSEGV))
    return {}


def crash_once(request: Answer, _report: Report) -> Answer:
    """Go down the first time, and do the work the second."""
    mark = request["mark"]
    if not os.path.exists(mark):  # noqa: PTH110
        with open(mark, "w"):  # noqa: PTH123
            os.kill(os.getpid(), signal.SIGSEGV)
    return {"done": True}


def fail(_request: Answer, _report: Report) -> Answer:
    """Raise what nobody foresaw."""
    print("words on standard error", file=sys.stderr)
    raise KeyError("a slip of ours")


def eat_memory(_request: Answer, _report: Report) -> Answer:
    """Take more memory than allowed."""
    return {"size": len(bytearray(resource.getrlimit(resource.RLIMIT_AS)[0]))}


def spin(_request: Answer, _report: Report) -> Answer:
    """Use the processor for ever."""
    while True:
        pass


def sleep(_request: Answer, report: Report) -> Answer:
    """Neither speak nor work: as if storage did not answer."""
    report(1, 2)
    time.sleep(600)
    return {}


def tell_pid(request: Answer, report: Report) -> Answer:
    """Write the process id where asked, then wait."""
    with open(request["mark"], "w") as file:  # noqa: PTH123
        file.write(str(os.getpid()))
    return sleep(request, report)


def tell_ready(_request: Answer, _report: Report) -> Answer:
    """Tell which process this is, whose child, what it had loaded, and what it holds open."""
    for part in (1, 2, 3):
        hand_over({"part": part})
    return {
        "pid": os.getpid(),
        "parent": os.getppid(),
        "loaded": "shapkeen.core.measured.survey.pair" in sys.modules,
        "open": sorted(os.listdir("/proc/self/fd"), key=int),  # noqa: PTH208
    }
