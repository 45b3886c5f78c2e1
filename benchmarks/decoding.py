"""What decoding takes within a run: measured where the pictures are asked for.

Decoding once alone and once beside the measuring are minutes apart, and a machine that others use
as well is up to a third slower at one time than at another: that would count as measuring.
"""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any
from unittest import mock

from shapkeen.core.measured.frame_statistics import engine
from shapkeen.core.measured.pair_pass import worker
from shapkeen.core.measured.spans.cutting import read_span


@dataclass(slots=True)
class Clock:
    """CPU seconds of this process. decoding: those in which spans were decoded, by one thread."""

    decoding: float = 0.0
    whole: float = 0.0

    @property
    def beyond(self) -> float:
        """Return what was spent on anything else."""
        return self.whole - self.decoding

    @property
    def ratio(self) -> float:
        """Return all of it, in units of decoding."""
        return self.whole / self.decoding

    def read(self, *given: Any, **named: Any) -> Iterator[Any]:
        """Yield what read_span does, and add up what it takes."""
        pictures = read_span(*given, **named)
        while True:
            started = time.process_time()
            picture = next(pictures, None)
            self.decoding += time.process_time() - started
            if picture is None:
                return
            yield picture


@contextmanager
def timed() -> Iterator[Clock]:
    """Give a clock that runs until the end, for work in this process alone."""
    clock = Clock()
    with (
        mock.patch.object(worker, "read_span", clock.read),
        mock.patch.object(engine, "read_span", clock.read),
    ):
        started = time.process_time()
        yield clock
        clock.whole = time.process_time() - started
