"""Django's test runner: seconds by class, the longest classes first, one plain closing line."""

import os
import resource
import tempfile
import time
import unittest
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from typing import Any

from django.db.backends.sqlite3.operations import DatabaseOperations
from django.test.runner import DiscoverRunner, ParallelTestSuite, _run_subsuite

TIMES = "SHAPKEEN_TEST_TIMES"
"""Names the file that worker processes write their classes' seconds to."""
SLOWEST = 60
SLOW = (
    "test_conversions.",
    "test_detail_acts.",
    "test_eyes_acts.",
    "test_sphere_acts.",
    "test_main_way.",
    "test_work.",
    "test_registration.",
    "test_damage.",
    "test_rates.",
    "tests.browser.",
    "tests.web.",
    "test_pair_pass.",
    "test_broken_streams.",
    "test_shots.",
    "test_command.",
    "test_timing.",
)
"""Parts of names, the longest first."""


CORES = sorted(os.sched_getaffinity(0))
ALONE = ("tests.core.", "tests.cli.", "tests.demo.")
"""What starts no servers and browsers runs on one core of its own: decoders, encoders and array
libraries then start one thread each, in place of threads that only wait for each other."""


def _flush_history_too(flush: Any) -> Any:
    """Return a way to empty tables between tests: the history's guards go first, and come back."""

    def wrapped(self: Any, sql_list: list[str]) -> None:
        guards = import_module("shapkeen.web.history.migrations.0002_never_edited")
        with self.connection.cursor() as cursor:
            for part in guards.ALLOW.strip().splitlines():
                cursor.execute(part)
            flush(self, sql_list)
            for part in guards.REFUSE.strip().split("END;"):
                if part.strip():
                    cursor.execute(f"{part} END;")

    return wrapped


DatabaseOperations.execute_sql_flush = _flush_history_too(DatabaseOperations.execute_sql_flush)

os.environ.setdefault("SVT_LOG", "1")
"""Errors alone: the AV1 encoder tells its settings at every start otherwise."""
os.environ.setdefault("SHAPKEEN_GIVES_WAY", "0")
"""Here all that runs beside is other tests: what gave way to them would wait for minutes."""


def _settle(name: str) -> None:
    """Keep this process to one core, or give it all of them back."""
    alone = name.startswith(ALONE) and len(CORES) > 1
    os.sched_setaffinity(0, {_freest_core()} if alone else set(CORES))


def _freest_core() -> int:
    """Return the core that the fewest other workers keep to: more of them run than there are."""
    taken: Counter[int] = Counter()
    parent = os.getppid()
    for pid in Path(f"/proc/{parent}/task/{parent}/children").read_text().split():
        with suppress(OSError):
            cores = os.sched_getaffinity(int(pid))
            taken.update(cores if len(cores) == 1 and int(pid) != os.getpid() else ())
    return min(CORES, key=lambda core: taken[core])


def _timed_subsuite(args: Any) -> Any:
    """Run one class in a worker process, and note how long it took, its preparation included."""
    name = _name(args[2])  # tests are gone from the suite once run
    started, busy = time.monotonic(), _cpu_s()
    _settle(name)
    found = _run_subsuite(args)
    with Path(os.environ[TIMES]).open("a") as file:  # short lines appended are whole
        file.write(f"{time.monotonic() - started:.1f} {_cpu_s() - busy:.1f} {name}\n")
    return found


def _cpu_s() -> float:
    """Return the processor's seconds of this process and of the children that it waited for."""
    spent = [resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)]
    return sum(one.ru_utime + one.ru_stime for one in spent)


def _name(suite: unittest.TestSuite) -> str:
    first = next(iter(_tests(suite)), None)
    kind = type(first)
    return f"{kind.__module__}.{kind.__qualname__}"


def _tests(suite: unittest.TestSuite) -> Iterator[Any]:
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from _tests(one)
        else:
            yield one


def _longest_first(suites: list[unittest.TestSuite]) -> list[unittest.TestSuite]:
    """Return the classes with those that take minutes in front: none is left over at the end."""

    def rank(suite: unittest.TestSuite) -> int:
        name = _name(suite)
        return next((at for at, slow in enumerate(SLOW) if slow in name), len(SLOW))

    return sorted(suites, key=rank)


class TimedSuite(ParallelTestSuite):
    run_subsuite = _timed_subsuite

    def __init__(self, subsuites: list[unittest.TestSuite], *args: Any, **kwargs: Any) -> None:
        super().__init__(_longest_first(list(subsuites)), *args, **kwargs)


class Runner(DiscoverRunner):
    """Counts what the runner reports and says it in one line at the end."""

    parallel_test_suite = TimedSuite

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> Any:
        handle, name = tempfile.mkstemp(prefix="shapkeen-times-")
        os.close(handle)
        os.environ[TIMES] = name
        try:
            return super().run_suite(suite, **kwargs)
        finally:
            self._tell_times(Path(name))

    def _tell_times(self, path: Path) -> None:
        rows = [line.split(" ", 2) for line in path.read_text().splitlines()]
        path.unlink()
        if not rows:
            return
        rows.sort(key=lambda row: -float(row[1]))
        print(f"\nSeconds by the clock and of the processor, the {SLOWEST} dearest of {len(rows)}:")
        for clock, busy, name in rows[:SLOWEST]:
            print(f"{float(clock):8.1f} {float(busy):8.1f}  {name}")
        sums = (sum(float(row[place]) for row in rows) for place in (0, 1))
        print("{:8.1f} {:8.1f}  all, in every process together".format(*sums))

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        passed = result.testsRun - failed - skipped
        print(f"\n{passed} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
