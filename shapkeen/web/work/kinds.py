"""The kinds of work: each application that has long work registers how it is done."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """One kind of work.

    name: as jobs carry it. title: what a page says while it runs. unit: of its progress, in the
    plural. run: does one job, in a worker; raises CoreError, FaultError, StoppedError. find: the
    subject of a number as far as a user may see it, None where not; it has get_absolute_url.
    priority: work of a higher one is begun first. beginning, ending, failed, again: what pages say
    before the first step, after the last one, where it failed, and on the button that repeats it.
    """

    name: str
    title: str
    unit: str
    run: Callable[[Any], None]  # of a models.Job, which knows its kind and so this module
    find: Callable[[Any, int], Any]
    priority: int = 0
    beginning: str = "Aligning the two files"
    ending: str = "Every frame read; judging"
    failed: str = "This export could not be judged"
    again: str = "Measure again"


_KINDS: dict[str, Kind] = {}


def register(kind: Kind) -> None:
    """Make a kind of work known; called when the application starts."""
    _KINDS[kind.name] = kind


def kind_named(name: str) -> Kind:
    """Return the kind of that name; raises KeyError where no application has it."""
    return _KINDS[name]
