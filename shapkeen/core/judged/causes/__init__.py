"""Which acts explain the losses: one explainer a family of acts, fewest causes first.

Each explainer takes the evidence and the traits that are not kept, and yields causes. An act
comes before its consequences: what a geometric act explains is not blamed on another.
"""

from collections.abc import Iterator, Set
from dataclasses import replace

from ..evidence import Evidence
from ..model import Cause
from ..reliability import confidence_of
from . import carriage, colour, detail, eyes, light, shape, sound, sphere, tag, time

EXPLAINERS = (
    carriage.explain_damage,
    shape.explain_weave,
    sphere.explain_sphere,
    eyes.explain_eyes,
    shape.explain_shape,
    colour.explain_conversion,
    light.explain_tone,
    detail.explain_detail,
    light.explain_bit_depth,
    light.explain_light_level,
    tag.explain_tags,
    carriage.explain_rate,
    time.explain_frames,
    sound.explain_sound,
    carriage.explain_index,
    carriage.explain_level,
)


def explain(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield the causes of the broken traits, each trait explained by one cause only."""
    left = set(broken)
    for explainer in EXPLAINERS:
        for cause in explainer(evidence, frozenset(left)):
            yield replace(cause, confidence=confidence_of(cause.id))
            left -= set(cause.traits)


__all__ = ["explain"]
