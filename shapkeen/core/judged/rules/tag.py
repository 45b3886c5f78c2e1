"""Traits that are judged by what the witnesses state."""

from ...declared import TraitValue
from ...promised import trait_by_name
from ..evidence import Evidence, satisfies
from ..model import Ruling, kept, lost


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


def judge_tag(evidence: Evidence, trait: str) -> Ruling:
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
    if not all(satisfies(promised, value) for value in spoken):
        said = shown(trait, spoken[0])
        return lost(f"Promised {shown(trait, promised.value)}, stated {said}.")
    return kept("Every witness that speaks says what was promised.")
