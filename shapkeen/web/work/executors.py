"""Where surveys run their spans: one executor, chosen in the settings, handed to the core."""

from collections.abc import Callable

from ...core.measured.spans.run import Pool, processes

EXECUTORS: dict[str, Callable[[int], Pool | None]] = {"processes": processes}
"""By the name that SHAPKEEN_EXECUTOR may have."""


def pool_named(name: str, workers: int) -> Pool | None:
    """Return the pool of a configured name with so many workers; None where one needs none."""
    return EXECUTORS[name](workers)
