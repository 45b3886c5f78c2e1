"""Faults on demand: what real lines and services do to a delivery."""

import random
import time
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from ...core.errors import UsageError


@dataclass(frozen=True, slots=True, kw_only=True)
class Faults:
    """What goes wrong. None, 0 or empty: nothing.

    slow: bytes a second that are taken at most. cut: the connection is closed once so many bytes of
    a request came, each time anew at a random place up to there. refuse: the service answers 503.
    lose_stage: a stage, by its name, that never comes.
    """

    slow: int = 0
    cut: int = 0
    refuse: bool = False
    lose_stage: str = ""

    def changed(self, wanted: Mapping[str, Any]) -> "Faults":
        """Return these with some changed; raises UsageError for what is no fault."""
        known = asdict(self)
        for name, value in wanted.items():
            if name not in known:
                raise UsageError(f"Faults are {', '.join(known)}.", code="bad-fault", where=name)
            usual = type(known[name])
            if type(value) is not usual or (usual is int and value < 0):
                raise UsageError(
                    f"{name} is a {usual.__name__}, 0 or more.", code="bad-fault", where=name
                )
        return replace(self, **wanted)

    def place_of_cut(self) -> int | None:
        """Return after how many bytes this request is cut; None where it is not."""
        return random.randint(0, self.cut) if self.cut else None  # noqa: S311  (no secret)

    def hold_back(self, count: int) -> None:
        """Wait as long as so many bytes take."""
        if self.slow:
            time.sleep(count / self.slow)
