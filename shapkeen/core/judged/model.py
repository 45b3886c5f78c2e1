"""The nouns of this room: judgements, verdicts, causes, and a survival of many."""

from collections.abc import Iterable, Mapping, Set
from dataclasses import dataclass

from ..declared import TraitValue

KEPT, UNPROVEN, BENT, LOST = "kept", "unproven", "bent", "lost"
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
class Judgement:
    """What one rule found for one trait. picture: what the pixels show, None = cannot tell."""

    verdict: str
    why: str
    picture: TraitValue | None = None
    measure: Measure | None = None


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
    measure: Measure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """The single act that explains some traits best; ids are contract.md's.

    remedy: one word for the kind of cure; cure: the smallest one in a sentence.
    """

    id: str
    traits: tuple[str, ...]
    confidence: float
    why: str
    remedy: str
    cure: str
    values: Mapping[str, TraitValue | None]


def explained(broken: Set[str], *traits: str) -> tuple[str, ...]:
    """Return which traits an act explains: those of its own that broke, else its first."""
    return tuple(trait for trait in traits if trait in broken) or traits[:1]


@dataclass(frozen=True, slots=True)
class Survival:
    """What came through: every verdict, and the fewest causes that explain the losses."""

    verdicts: tuple[Verdict, ...]
    causes: tuple[Cause, ...]

    @property
    def overall(self) -> str:
        """Return the worst verdict."""
        return overall_of(verdict.verdict for verdict in self.verdicts)


def overall_of(verdicts: Iterable[str]) -> str:
    """Return the worst of some verdicts; kept where there are none."""
    return max(verdicts, key=SEVERITY.index, default=KEPT)


def kept(why: str, **more: object) -> Judgement:
    """Return a judgement that the trait survives."""
    return Judgement(verdict=KEPT, why=why, **more)  # type: ignore[arg-type]  # Judgement's own


def bent(why: str, **more: object) -> Judgement:
    """Return a judgement that the trait changed and someone must decide."""
    return Judgement(verdict=BENT, why=why, **more)  # type: ignore[arg-type]  # as above


def lost(why: str, **more: object) -> Judgement:
    """Return a judgement that viewers would not see what was promised."""
    return Judgement(verdict=LOST, why=why, **more)  # type: ignore[arg-type]  # as above


def unproven(why: str, **more: object) -> Judgement:
    """Return a judgement that no witness could speak."""
    return Judgement(verdict=UNPROVEN, why=why, **more)  # type: ignore[arg-type]  # as above
