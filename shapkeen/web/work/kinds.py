"""The kinds of work: each application that has long work registers how it is done."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

SOON, USUAL, LATER, LAST = 50, 0, -50, -95
"""Priorities (-100 to 100): of what somebody asked for, and waits; of what somebody brought in; of
what came in by itself; of what nobody asked for. Between them is room for turns."""
MOST_TURNS = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """One kind of work.

    name: as jobs carry it. title: what a page says while it runs. unit: of its progress, in the
    plural. run: does one job, in a worker; raises CoreError, FaultError, StoppedError. find: the
    subject of a number as far as a user may see it, None where not; it has get_absolute_url.
    find_many: of several numbers at once, for kinds of which lists hold many.
    priority: work of a higher one is begun first. beginning, ending, failed, again: what pages say
    before the first step, after the last one, where it failed, and on the button that repeats it.
    """

    name: str
    title: str
    unit: str
    run: Callable[[Any], None]  # of a models.Job, which knows its kind and so this module
    find: Callable[[Any, int], Any]
    priority: int = USUAL
    beginning: str = "Aligning the two files"
    ending: str = "Every frame read; judging"
    failed: str = "This export could not be judged"
    again: str = "Measure again"
    find_many: Callable[[Any, Iterable[int]], dict[int, Any]] | None = None

    def found(self, user: Any, numbers: Iterable[int]) -> dict[int, Any]:
        """Return number → its subject, of those that a user may see."""
        if self.find_many is not None:
            return self.find_many(user, numbers)
        found = ((number, self.find(user, number)) for number in numbers)
        return {number: subject for number, subject in found if subject is not None}


_KINDS: dict[str, Kind] = {}


def register(kind: Kind) -> None:
    """Make a kind of work known; called when the application starts."""
    _KINDS[kind.name] = kind


def kind_named(name: str) -> Kind:
    """Return the kind of that name; raises KeyError where no application has it."""
    return _KINDS[name]
