"""Parts run in worker processes: what a worker that goes down means, and for whom."""

import os
import signal
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Iterator
from concurrent.futures import Executor, ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

from shapkeen.core.measured.spans.run import run_parts

MEASURED = """
import sys
from functools import partial
from shapkeen.core.errors import CoreError
from shapkeen.core.measured.spans.run import processes, run_parts
from tests.core.measured.test_spans_run import die_at
told = []
try:
    found = list(run_parts(range(6), partial(die_at, *sys.argv[1:]), pool=processes(2), store=None,
        report=lambda done, total: told.append((done, total))))
    print(sorted(found), told[-1])
except CoreError as error:
    print(type(error).__name__, error.code, error.where)
"""


def die_at(folder: str, how: str, part: int) -> int:
    """Return the part; at the third one go down first, as `how` says: once, always, or killed."""
    mark = Path(folder) / "died"
    if part == 3 and (how != "once" or not mark.exists()):
        mark.touch()
        os.kill(os.getpid(), signal.SIGKILL if how == "killed" else signal.SIGSEGV)
    return part


class Threads:
    """A pool of threads that remembers what it was given."""

    shares_disk, at_once = True, 4

    def __init__(self) -> None:
        self.given: list[int] = []

    @contextmanager
    def __call__(self) -> Iterator[Executor]:
        with ThreadPoolExecutor(2) as executor:
            yield executor

    def work(self, part: int) -> int:
        self.given.append(part)
        return part


class AtOnce(unittest.TestCase):
    def test_no_more_is_done_than_is_taken(self) -> None:
        # Else what a film of 200 000 frames gives would wait in memory for a judge who is slower.
        pool = Threads()
        found = run_parts(range(40), pool.work, pool=pool, store=None, report=lambda *_: None)
        for taken in range(1, 41):
            next(found)
            self.assertLessEqual(len(pool.given), taken + pool.at_once)
        self.assertEqual(sorted(pool.given), list(range(40)))
        self.assertEqual(list(found), [])


class Crashes(unittest.TestCase):
    def run_in_pool(self, how: str) -> str:
        # In a process of its own: those of a parallel test run may have no children.
        with tempfile.TemporaryDirectory() as folder:
            made = subprocess.run(
                [sys.executable, "-W", "ignore", "-c", MEASURED, folder, how],
                capture_output=True,
                text=True,
                check=False,
            )
        return made.stdout.strip() or made.stderr

    def test_a_crash_that_does_not_come_back_costs_nothing(self) -> None:
        self.assertEqual(self.run_in_pool("once"), "[0, 1, 2, 3, 4, 5] (6, 6)")

    def test_a_crash_at_the_same_part_is_the_files(self) -> None:
        self.assertEqual(
            self.run_in_pool("always"), "UnreadableFileError decoder-crashed SIGSEGV at 3"
        )

    def test_a_worker_that_was_killed_is_no_fault_of_the_files(self) -> None:
        self.assertEqual(self.run_in_pool("killed"), "InternalError child-killed SIGKILL")
