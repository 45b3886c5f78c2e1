"""Pictures on the Bench."""

from contextlib import suppress
from typing import Any

from django import template

from ....core.errors import CoreError
from ....core.reported.report.pictures import display_of
from ...bench.services import drawn_comparison_of
from ...library.models import Attempt
from ...work.made import is_kept
from .. import shown, stills

register = template.Library()


@register.inclusion_tag("look/_pair.html")
def pair_of(attempt: Attempt, cause: Any) -> dict[str, Any]:
    """Show the pair of pictures of a cause, where a picture shows anything of it."""
    comparison = drawn_comparison_of(attempt)
    found = shown.cause_pair(comparison, cause) if comparison else None
    return {"attempt": attempt, "pair": found}


@register.inclusion_tag("look/_band.html")
def film_band(attempt: Attempt) -> dict[str, Any]:
    """Show master and export as bands through time, with findings at theirs."""
    comparison = drawn_comparison_of(attempt)
    if comparison is None or not comparison.survey.pairs or not _is_soon(attempt, comparison):
        return {"attempt": None}
    return {"attempt": attempt, "marks": shown.marks_of(comparison)}


def _is_soon(attempt: Attempt, comparison: Any) -> bool:
    """Return whether both bands are drawn, or will be before anybody tires of waiting."""
    if len(comparison.survey.series or ()) <= shown.SHORT_FRAMES:
        return True
    display, frames = display_of(comparison)[0], shown.band_frames(comparison)
    reels = attempt.delivery.title.master, attempt.reel
    with suppress(CoreError):
        keys = [stills.band_key(*pair, display) for pair in zip(reels, frames, strict=True)]
        return all(map(is_kept, keys))
    return False
