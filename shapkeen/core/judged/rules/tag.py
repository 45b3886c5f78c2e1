"""Traits that are judged by what the witnesses state."""

from ...declared import TraitValue
from ...promised import SHOWN_FLAT, trait_by_name
from ..evidence import Evidence, meets
from ..model import Judgement, kept, lost, unproven

SPHERE_SHAPE, NEAR_SHAPE = 2.0, 0.02
BESIDE_SHAPE, STACKED_SHAPE = 3.0, 1.0
"""Whole spheres are 2:1; two 16:9 eyes side by side 3.56, one over the other 0.89. Common practice,
no source."""


def shown(trait: str, value: TraitValue | None) -> str:
    """Return a value in the trait's own short form."""
    entry = trait_by_name(trait)
    if value is None:
        return "nothing"
    return entry.form.show(value) if entry else str(value)


def conflict_text(evidence: Evidence, trait: str) -> str:
    """Return the words for two witnesses that disagree."""
    wrapper, stream = (shown(trait, value) for value in evidence.stated(trait))
    return f"The wrapper says {wrapper}, the stream {stream}: players choose differently."


def judge_tag(evidence: Evidence, trait: str) -> Judgement:
    """Judge a plain tag: every witness that speaks must say what was promised."""
    promised = evidence.promised(trait)
    entry = trait_by_name(trait)
    spoken = evidence.spoken(trait)
    if not spoken:
        if entry is not None and entry.neutral is not None and promised.value == entry.neutral:
            return kept("No witness states it, and silence means what was promised.")
        return lost(f"Promised {shown(trait, promised.value)}; no witness states it.")
    if evidence.in_conflict(trait):
        return lost(conflict_text(evidence, trait))
    if not all(meets(promised, value) for value in spoken):
        said = shown(trait, spoken[0])
        return lost(f"Promised {shown(trait, promised.value)}, stated {said}.")
    return kept("Every witness that speaks says what was promised.")


def judge_unmeasured_tag(evidence: Evidence, trait: str) -> Judgement:
    """Judge a tag whose truth the picture must show, which is not measured yet."""
    judgement = judge_tag(evidence, trait)
    if judgement.verdict != "kept":
        if evidence.promised(trait).origin == SHOWN_FLAT and _may_be(evidence, trait):
            return unproven(
                f"The export says {shown(trait, evidence.spoken(trait)[0])}, the master nothing, "
                "and its shape fits. Promise it, if the master is so."
            )
        return judgement
    return unproven("The tags are right; whether the picture is so is not measured yet.")


def _may_be(evidence: Evidence, trait: str) -> bool:
    """Return whether a silent master's shape is that of a sphere, or of two whole eyes."""
    shape = evidence.promise.value("shown_shape")
    if not isinstance(shape, float):
        return False
    if trait == "projection":
        return abs(shape - SPHERE_SHAPE) < NEAR_SHAPE
    return shape >= BESIDE_SHAPE or shape <= STACKED_SHAPE
