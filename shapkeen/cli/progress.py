"""How far a comparison is, on standard error, where someone is looking."""

import argparse
import sys
import time
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from ..core.remaining import Remaining, clock_words
from .text import printable

if TYPE_CHECKING:
    from ..core.judged import Comparison

EVERY_S = 0.2


@dataclass(slots=True)
class ProgressLine:
    """One line that is written over and over; nothing at all where nobody sees it."""

    name: str
    _width: int = 0
    _told: float = 0.0
    _remaining: Remaining = field(default_factory=Remaining)

    def __call__(self, done: int, total: int) -> None:
        """Tell how many frames of how many were read."""
        now = time.monotonic()
        left = self._remaining.learn(done, total, now)
        if not sys.stderr.isatty() or now - self._told < EVERY_S:
            return
        self._told = now
        words = f"{self.name}: {done / max(total, 1):.0%}"
        self._write(words if left is None else f"{words}, about {clock_words(left)} left")

    def clear(self) -> None:
        """Take the line away."""
        if self._width:
            self._write("")
            print("\r", end="", file=sys.stderr, flush=True)

    def _write(self, words: str) -> None:
        print(f"\r{words.ljust(self._width)}", end="", file=sys.stderr, flush=True)
        self._width = len(words)


def compared(call: argparse.Namespace) -> "Comparison":
    """Return the comparison of a call's export with its master, telling how far it is."""
    from ..core.compared import compare_files
    from ..core.promised import read_promise_file

    overrides = read_promise_file(call.promise) if call.promise else None
    line = ProgressLine(printable(call.export.name))
    try:
        return compare_files(call.master, call.export, overrides=overrides, progress=line)
    finally:
        line.clear()
