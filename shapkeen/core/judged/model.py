"""The nouns of this room: rulings, verdicts, causes, and a survival of many."""

from collections.abc import Iterable, Mapping, Set
from dataclasses import dataclass

from ..declared import Declaration, TraitValue
from ..measured import PairSurvey
from ..promised import Promise

KEPT, UNPROVEN, BENT, LOST = "kept", "unproven", "bent", "lost"
SILENT, CANNOT_TELL = "silent", "cannot-tell"
"""States of a single witness beside kept, bent and lost."""
SEVERITY = (KEPT, UNPROVEN, BENT, LOST)
"""From best to worst; an overall verdict is the worst of all."""


@dataclass(frozen=True, slots=True)
class Measure:
    """The figure that decided, with its unit and the limit it was held against."""

    name: str
    value: float
    unit: str
    limit: float


@dataclass(frozen=True, slots=True, kw_only=True)
class States:
    """What each witness alone says of the promise: kept, bent, lost, silent, or cannot-tell."""

    wrapper: str
    stream: str
    picture: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Ruling:
    """What one rule found for one trait. picture: what the pixels show, None = cannot tell.

    picture_state: what the pixels alone say of the promise; None where that is the verdict (traits
    of the picture) or nothing (tags). wrapper_state, stream_state: None where the stated values
    tell it.
    """

    verdict: str
    why: str
    picture: TraitValue | None = None
    measure: Measure | None = None
    picture_state: str | None = None
    wrapper_state: str | None = None
    stream_state: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """One trait of one export, judged from all three witnesses against the promise."""

    trait: str
    family: str
    verdict: str
    promised: TraitValue | None
    wrapper: TraitValue | None
    stream: TraitValue | None
    picture: TraitValue | None
    why: str
    states: States
    measure: Measure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """The single act that explains some traits best; ids are docs/contract.md's.

    remedy: one word for the kind of cure; cure: the smallest one in a sentence. strength: how
    clearly it explains the evidence better than the next act, 0.5 to 1. confidence: how often it is
    right once it is named, as measured (reliability.py); None where that is not.
    """

    id: str
    traits: tuple[str, ...]
    strength: float
    why: str
    remedy: str
    cure: str
    values: Mapping[str, TraitValue | None]
    confidence: float | None = None


def explained(broken: Set[str], *traits: str) -> tuple[str, ...]:
    """Return which traits an act explains: those of its own that broke, else its first."""
    return tuple(trait for trait in traits if trait in broken) or traits[:1]


@dataclass(frozen=True, slots=True)
class Note:
    """What changed and is enough all the same."""

    trait: str
    text: str


@dataclass(frozen=True, slots=True)
class Survival:
    """What came through: every verdict, the fewest causes that explain the losses, and notes."""

    verdicts: tuple[Verdict, ...]
    causes: tuple[Cause, ...]
    notes: tuple[Note, ...] = ()

    @property
    def overall(self) -> str:
        """Return the worst verdict."""
        return overall_of(verdict.verdict for verdict in self.verdicts)


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Everything that comparing one export with its master brought to light."""

    master: Declaration
    export: Declaration
    promise: Promise
    survey: PairSurvey
    survival: Survival
    read_s: float = 0.0
    measure_s: float = 0.0


def overall_of(verdicts: Iterable[str]) -> str:
    """Return the worst of some verdicts; kept where there are none."""
    return max(verdicts, key=SEVERITY.index, default=KEPT)


def kept(why: str, **more: object) -> Ruling:
    """Return a ruling that the trait survives."""
    return Ruling(verdict=KEPT, why=why, **more)  # type: ignore[arg-type]  # Ruling's own


def bent(why: str, **more: object) -> Ruling:
    """Return a ruling that the trait changed and someone must decide."""
    return Ruling(verdict=BENT, why=why, **more)  # type: ignore[arg-type]  # as above


def lost(why: str, **more: object) -> Ruling:
    """Return a ruling that viewers would not see what was promised."""
    return Ruling(verdict=LOST, why=why, **more)  # type: ignore[arg-type]  # as above


def unproven(why: str, **more: object) -> Ruling:
    """Return a ruling that no witness could speak."""
    return Ruling(verdict=UNPROVEN, why=why, **more)  # type: ignore[arg-type]  # as above
