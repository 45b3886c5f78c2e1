"""What each witness alone says of a promise, once a rule has spoken."""

from ..declared import TraitValue
from ..promised import CARRIAGE, Trait
from .equivalence import equivalent
from .evidence import Evidence, satisfies
from .model import BENT, CANNOT_TELL, KEPT, LOST, SILENT, UNPROVEN, Ruling, States


def states_of(evidence: Evidence, trait: Trait, ruling: Ruling) -> States:
    """Return the state of each witness: the rule's own word, else what follows from the values."""
    wrapper, stream = evidence.stated(trait.name)
    picture = ruling.picture_state
    if picture is None:
        silent = trait.declared or trait.family == CARRIAGE or ruling.verdict == UNPROVEN
        picture = CANNOT_TELL if silent else ruling.verdict
    return States(
        wrapper=ruling.wrapper_state or _declared(evidence, trait, ruling, wrapper),
        stream=ruling.stream_state or _declared(evidence, trait, ruling, stream),
        picture=picture,
    )


def _declared(evidence: Evidence, trait: Trait, ruling: Ruling, value: TraitValue | None) -> str:
    """Return the state of a witness that states a value; None = it states none."""
    if value is None or not trait.declared:
        return SILENT
    promised = evidence.promised(trait.name)
    wanted = promised.value
    agrees = satisfies(promised, value) or (
        wanted is not None and equivalent(trait.name, wanted, value)
    )
    if agrees or ruling.verdict == KEPT:
        return KEPT
    if ruling.verdict == UNPROVEN:
        return CANNOT_TELL
    return BENT if ruling.verdict == BENT else LOST
