"""Where no table helps, and why: nothing drifted, or what did cannot come back."""

from collections.abc import Mapping

from ...judged import Cause, Comparison
from ...judged.model import BENT, LOST
from .model import UNDONE, ColourError

HALVED = 0.5
"""What is left of the difference may be so much of it: else nothing has come back."""
DRIFTING = frozenset({"tone", "gamut"})
"""Traits of the picture's own light and colours."""
NO_DRIFT = "Light and colours are where they should be: there is no drift to undo."
PARTS = (
    "Only parts of the picture lie elsewhere, graphics that were not converted, say: a table "
    "cannot tell them from the rest."
)
FOLDED = (
    "HDR is folded to SDR on the way: many colours become one, and how is a matter of taste. "
    "Change the fold itself."
)
WHY_GONE = {
    "highlights-clipped": "highlights cut at {} cannot come back",
    "gamut-clipped": "colours cut at the edge of a smaller gamut cannot come back",
    "range-expanded": "tones that were crushed at both ends cannot come back",
    "range-compressed": "black and white lie outside what this program puts out",
    "tone-compressed": "tones that were folded together cannot come back",
    "depth-reduced": "levels that were merged cannot come back",
}


def has_drifted(found: Comparison) -> bool:
    """Return whether light or colours came otherwise by an act that a table may take back."""
    causes = found.survival.causes
    if any(cause.id in UNDONE for cause in causes):
        return True
    if found.survey.misplaced:
        return False  # parts of the picture, which a table cannot tell from others
    explained = {trait for cause in causes for trait in cause.traits}
    return any(
        verdict.trait in DRIFTING
        and verdict.verdict in (BENT, LOST)
        and verdict.trait not in explained
        for verdict in found.survival.verdicts
    )


def nothing_to_undo(found: Comparison) -> str | None:
    """Return why no table is tried; None where one may help."""
    causes = found.survival.causes
    gone = why_gone(causes)
    if gone and not any(cause.id in UNDONE for cause in causes):
        return f"Only this happened: {gone}."
    if has_drifted(found):
        return None
    return PARTS if found.survey.misplaced else NO_DRIFT


def nothing_came_back(found: Comparison, before: ColourError, after: ColourError) -> str | None:
    """Return why a table that was made is thrown away; None where something comes back."""
    if after.mean <= HALVED * before.mean:
        return None
    return why_gone(found.survival.causes) or (
        "What happened to the colours is not the same everywhere in the picture, or different "
        "colours became one: no table brings them back."
    )


def why_gone(causes: tuple[Cause, ...]) -> str | None:
    """Return which act made many colours one."""
    for cause in causes:
        if cause.id in WHY_GONE:
            return WHY_GONE[cause.id].format(_level(cause.values))
    return None


def _level(values: Mapping[str, object]) -> str:
    level = values.get("level")
    if not isinstance(level, int | float):
        return "one level"
    return f"{level:.0f} cd/m²" if level > 1 else f"a signal of {level:.3f}"
