"""What pages of other rooms show of sign-off."""

from typing import Any

from django import template

from ...bench.services import comparison_of
from ...library.models import Attempt
from .. import remarks, services
from ..models import Waiver

register = template.Library()


@register.inclusion_tag("signoff/_line.html", takes_context=True)
def signed_line(context: dict[str, Any], attempt: Attempt) -> dict[str, Any]:
    """Show in a line whether an attempt is signed, and whether it still is what was."""
    comparison = comparison_of(attempt)
    stands = services.standing_of(attempt, comparison) if attempt.signatures.exists() else None
    return {"attempt": attempt, "stands": stands, "may": context.get("may")}


@register.inclusion_tag("signoff/_remarks.html", takes_context=True)
def remarks_panel(context: dict[str, Any], attempt: Attempt) -> dict[str, Any]:
    """Show the remarks of an attempt."""
    threads = remarks.threads_of(attempt)
    given = {name: context.get(name) for name in ("may", "csrf_token", "request")}
    return {"attempt": attempt, "threads": threads, **given}


@register.simple_tag
def waiver_of(attempt: Attempt, trait: str) -> Waiver | None:
    """Return what lets a trait's finding pass; None where nothing does."""
    known: dict[str, Waiver] | None = getattr(attempt, "_waivers", None)
    if known is None:
        known = {one.trait: one for one in attempt.waivers.filter(ended_at=None)}
        attempt._waivers = known  # type: ignore[attr-defined]
    return known.get(trait)
