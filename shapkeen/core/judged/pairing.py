"""Whether every frame is surely held against its own of the master."""

from ..measured import Registration
from . import tolerances
from .evidence import Evidence, shown_rate


def is_frame_for_frame(evidence: Evidence) -> bool:
    """Return whether one frame of the export stands for one of the master, at any rate."""
    survey = evidence.survey
    counts = (survey.master_frames, survey.export_frames) if survey else (None, None)
    rates = shown_rate(evidence.master)[0], shown_rate(evidence.export)[0]
    if rates[0] == rates[1] or None in counts:
        return True
    return abs((counts[0] or 0) - (counts[1] or 0)) <= tolerances.SAME_COUNT_FRAMES


def is_surely_paired(evidence: Evidence) -> bool:
    """Return whether every frame is held against its own: of another, a pan lies elsewhere."""
    timing = evidence.survey.timing if evidence.survey else None
    return timing is not None and is_frame_for_frame(evidence) and not timing.has_events


def is_out_of_step(evidence: Evidence, place: Registration) -> bool:
    """Return whether frames may be held against their neighbours: their places differ, and counts.

    A frame held once in a slow pan shows as one more at the end, and in half of the frames the
    picture lies elsewhere. Rough coding alone moves places, too, but adds no frame.
    """
    timing = evidence.survey.timing if evidence.survey else None
    if place.spread <= tolerances.PLACE_SPREAD:
        return False
    return timing is None or timing.has_events or timing.has_other_ends or timing.foreign > 0
