"""How often causes are right: measured, never estimated from how clear the evidence looked.

Counted by `make reliability` on pictures, encoders and settings that nothing was tuned on
(docs/diagnosis.md, Reliability): how often a cause was named, and how often it was what had been
done. A cause that was named too seldom there has no confidence.
"""

from collections.abc import Mapping
from types import MappingProxyType

LEAST_NAMED = 8
"""With fewer cases a share says nothing."""
MEASURED: Mapping[str, tuple[int, int]] = MappingProxyType(
    {
        # cause: (named, of these rightly), on 2026-11-28
    }
)


def confidence_of(cause: str) -> float | None:
    """Return the share of cases in which a cause, once named, is right; None where too few tell.

    One case of each kind is added (Laplace's rule of succession): never having erred is no proof.
    """
    named, right = MEASURED.get(cause, (0, 0))
    return round((right + 1) / (named + 2), 2) if named >= LEAST_NAMED else None
