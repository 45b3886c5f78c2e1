"""How long work will still take, from how much was done of what is known to be there."""

from dataclasses import dataclass


@dataclass(slots=True)
class Remaining:
    """Learns from each step. The time left rises only by work that was not known of before.

    Where work slows down, the time left stands still until it is right again: a figure that climbs
    while someone waits is of no use.
    """

    _started: float | None = None
    _total: int = 0
    _left: float | None = None

    def learn(self, done: int, total: int, now: float) -> float | None:
        """Take note of units done of those known, at a moment in seconds; return seconds left.

        None before anything was done.
        """
        if self._started is None:
            self._started = now
        spent = now - self._started
        if done <= 0 or spent <= 0:
            self._total = max(self._total, total)
            return self._left
        pace = spent / done
        fresh = pace * max(total - done, 0)
        if self._left is not None:
            fresh = min(fresh, self._left + pace * max(total - self._total, 0))
        self._total, self._left = max(self._total, total), fresh
        return fresh


def clock_words(seconds: float) -> str:
    """Return a length of time in the units that people say it in."""
    if seconds < 100:
        return f"{seconds:.0f} s" if seconds >= 10 else f"{seconds:.1f} s"
    minutes, rest = divmod(round(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours} h {minutes:02} min" if hours else f"{minutes} min {rest:02} s"
