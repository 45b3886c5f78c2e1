"""Django's test runner: seconds by class, the longest classes first, one plain closing line."""

import os
import tempfile
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.test.runner import DiscoverRunner, ParallelTestSuite, _run_subsuite

TIMES = "SHAPKEEN_TEST_TIMES"
"""Names the file that worker processes write their classes' seconds to."""
SLOWEST = 25


def _timed_subsuite(args: Any) -> Any:
    """Run one class in a worker process, and note how long it took, its preparation included."""
    started, name = time.monotonic(), _name(args[2])  # tests are gone from the suite once run
    found = _run_subsuite(args)
    with Path(os.environ[TIMES]).open("a") as file:  # short lines appended are whole
        file.write(f"{time.monotonic() - started:.1f} {name}\n")
    return found


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


class TimedSuite(ParallelTestSuite):
    run_subsuite = _timed_subsuite


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
        rows = [line.split(" ", 1) for line in path.read_text().splitlines()]
        path.unlink()
        if not rows:
            return
        rows.sort(key=lambda row: -float(row[0]))
        print(f"\nSeconds by class, the longest {min(SLOWEST, len(rows))} of {len(rows)}:")
        for seconds, name in rows[:SLOWEST]:
            print(f"{float(seconds):8.1f}  {name}")
        print(f"{sum(float(row[0]) for row in rows):8.1f}  all, in every process together")

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        passed = result.testsRun - failed - skipped
        print(f"\n{passed} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
