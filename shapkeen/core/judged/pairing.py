"""Whether every frame is surely held against its own of the master."""

from ..measured import Registration
from . import tolerances
from .evidence import Evidence


def is_out_of_step(evidence: Evidence, place: Registration) -> bool:
    """Return whether frames may be held against their neighbours: their places differ, and counts.

    A frame held once in a slow pan shows as one more at the end, and in half of the frames the
    picture lies elsewhere. Rough coding alone moves places, too, but adds no frame.
    """
    timing = evidence.survey.timing if evidence.survey else None
    if place.spread <= tolerances.PLACE_SPREAD:
        return False
    if timing is None:
        return True
    ends = timing.trimmed_in or timing.trimmed_out or timing.added_in or timing.added_out
    return bool(ends or timing.dropped or timing.repeated or timing.blended or timing.foreign)
