"""One thing that goes wrong, with the measure that avoids it."""

from dataclasses import dataclass
from fractions import Fraction

REFUSED, HARM, NOTE = "refused", "harm", "note"
SHAPES_ALIKE = Fraction(1, 200)
"""Half a per cent: what a circle may be off (decision 0005)."""


@dataclass(frozen=True, slots=True)
class PlanWarning:
    """One thing that goes wrong. kind: refused (by the service), harm (viewers see it), or note."""

    kind: str
    text: str
    measure: str
