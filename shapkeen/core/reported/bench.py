"""The Bench's own view of a comparison: rows of threads, and evidence slips."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

from ..declared import Declaration, TraitValue
from ..judged import Cause, Survival, Verdict, judge_survival, overall_of
from ..judged.evidence import Evidence
from ..judged.model import BENT, CANNOT_TELL, KEPT, LOST, SILENT, UNPROVEN
from ..promised import CARRIAGE, FAMILIES, SOUND, Promise, Trait, stated_by, trait_by_name
from .figures.thread import (
    AGREES,
    DIFFERS,
    RECEIVED,
    SILENCE,
    STATIONS,
    UNKNOWN,
    Station,
    bundle,
    thread,
)
from .received import Received

CAUSE_TITLES = {
    "tag-missing": "missing tag",
    "tag-conflict": "tags in conflict",
    "tag-wrong": "wrong tag",
    "range-compressed": "range compressed",
    "range-expanded": "range expanded",
    "gamma-shifted": "gamma shifted",
    "depth-reduced": "depth reduced",
    "transfer-converted": "transfer converted",
    "tone-compressed": "tone compressed",
    "highlights-clipped": "highlights clipped",
    "matrix-swapped": "wrong matrix",
    "gamut-converted": "gamut converted",
    "gamut-clipped": "gamut clipped",
    "light-level-missing": "light level missing",
    "light-level-understated": "light level understated",
    "squeeze-unflagged": "squeeze not flagged",
    "squeeze-doubled": "squeeze applied twice",
    "stream-damaged": "broken pictures",
    "index-last": "no fast start",
    "level-exceeded": "level exceeded",
    "rate-changed": "rate changed",
    "sphere-unflagged": "sphere not flagged",
    "stereo-unflagged": "stereo not flagged",
    "sphere-misflagged": "sphere flagged wrongly",
    "stereo-misflagged": "stereo flagged wrongly",
}


PICTURED = frozenset({"bit_depth", "colour_code", "scan", "frames"})
"""Rules that the picture answers where it can: dotted where what is declared had to decide."""


ABSENT = "none"
"""What viewers get of a trait that they do not get at all."""


@dataclass(frozen=True, slots=True)
class Row:
    """One trait on the Bench."""

    trait: Trait
    verdict: Verdict
    drawing: str


@dataclass(frozen=True, slots=True)
class FamilyRows:
    """One family: the rows that need an eye, and the kept ones with their bundle."""

    name: str
    broken: tuple[Row, ...]
    kept: tuple[Row, ...]
    drawing: str

    def holds_kept(self, trait: str) -> bool:
        """Return whether a trait is among the kept ones."""
        return any(row.trait.name == trait for row in self.kept)


def cause_title(cause: Cause) -> str:
    """Return a cause's name as people say it."""
    return title_of(cause.id)


def title_of(cause_id: str) -> str:
    """Return the name of a cause of the contract."""
    return CAUSE_TITLES.get(cause_id, cause_id.replace("-", " "))


@dataclass(frozen=True, slots=True)
class CauseLine:
    """One cause over the map: its name, and the worst that it did."""

    cause: Cause
    title: str
    worst: str


class Told(Protocol):
    """What rows are drawn from: a comparison, or what headers alone decide."""

    @property
    def master(self) -> Declaration:
        """Return what the master declares."""

    @property
    def survival(self) -> Survival:
        """Return verdicts and causes."""


def cause_lines(comparison: Told) -> list[CauseLine]:
    """Return the causes in their order."""
    verdicts = {v.trait: v.verdict for v in comparison.survival.verdicts}
    return [
        CauseLine(cause, cause_title(cause), overall_of(verdicts[t] for t in cause.traits))
        for cause in comparison.survival.causes
    ]


def tally(verdicts: Sequence[Verdict]) -> list[tuple[str, int]]:
    """Return how many traits have each verdict, the worst first, empty ones left out."""
    words = ("lost", "bent", "unproven", "kept")
    counts = [(word, sum(v.verdict == word for v in verdicts)) for word in words]
    return [(word, count) for word, count in counts if count]


def broken_words(survival: Survival) -> list[str]:
    """Return what broke, in words for a list: each cause, and each trait that none explains.

    Empty where everything was kept; what nobody could prove is told as such.
    """
    explained = {trait for cause in survival.causes for trait in cause.traits}
    words = [cause_title(cause) for cause in survival.causes]
    loose = [v for v in survival.verdicts if v.verdict in (LOST, BENT) and v.trait not in explained]
    words += [_title(verdict.trait).lower() for verdict in loose]
    if not words:
        words = [
            f"{_title(verdict.trait).lower()} unproven"
            for verdict in survival.verdicts
            if verdict.verdict == UNPROVEN
        ]
    return words


def _title(name: str) -> str:
    trait = trait_by_name(name)
    return trait.title if trait else name


@dataclass(frozen=True, slots=True)
class DeclaredStage:
    """What headers alone decide of an export, before its picture was looked at."""

    master: Declaration
    survival: Survival


def declared_stage(promise: Promise, master: Declaration, export: Declaration) -> DeclaredStage:
    """Return what headers alone decide: traits whose verdict needs no picture, and their causes."""
    told = judge_survival(Evidence(promise, master, export, None))
    verdicts = tuple(v for v in told.verdicts if v.verdict != UNPROVEN)
    decided = {v.trait for v in verdicts}
    causes = tuple(cause for cause in told.causes if decided.issuperset(cause.traits))
    return DeclaredStage(master, Survival(verdicts, causes))


def bench_families(
    comparison: Told, *, seen: bool = True, received: Mapping[str, Received] | None = None
) -> list[FamilyRows]:
    """Return the families in their order, each with its rows; empty ones are left out.

    seen: whether the picture was looked at. received: traits as a rehearsal's viewers get them;
    None without a rehearsal. What they get wrong stands among the rows that need an eye.
    """
    wrong = {name for name, one in (received or {}).items() if one.is_wrong}
    families = []
    for name in FAMILIES:
        verdicts = [v for v in comparison.survival.verdicts if v.family == name]
        if not verdicts:
            continue
        rows = tuple(row_of(comparison, verdict, received) for verdict in verdicts)
        kept = tuple(
            row for row in rows if row.verdict.verdict == KEPT and row.trait.name not in wrong
        )
        families.append(
            FamilyRows(
                name=name,
                broken=tuple(row for row in rows if row not in kept),
                kept=kept,
                drawing=bundle(
                    len(kept),
                    label=f"{name}: {len(kept)} kept",
                    seen=seen,
                    received=received is not None,
                ),
            )
        )
    return families


def row_of(
    comparison: Told, verdict: Verdict, received: Mapping[str, Received] | None = None
) -> Row:
    """Return one trait's row with its thread drawn; received: as bench_families has it."""
    trait = trait_by_name(verdict.trait)
    assert trait is not None  # noqa: S101  (verdicts are given for registered traits only)
    label = f"{trait.title}: {verdict.verdict}. {verdict.why}"
    stations = _stations(comparison, trait, verdict)
    if received is not None:
        there = received.get(trait.name)
        label += f" {there.text}" if there and there.is_wrong else ""
        stations.append(_received(trait, there))
    drawing = thread(tuple(stations), verdict=verdict.verdict, label=label)
    return Row(trait, verdict, drawing)


def _stations(comparison: Told, trait: Trait, verdict: Verdict) -> list[Station]:
    promised = verdict.promised
    master = stated_by(comparison.master, trait.name)
    master_value = master[1].value if master else promised
    values = (promised, master_value, verdict.wrapper, verdict.stream, verdict.picture)
    return [
        Station(name, _show(trait, value), _drawn(trait, name, verdict))
        for name, value in zip(STATIONS, values, strict=True)
    ]


def _received(trait: Trait, there: Received | None) -> Station:
    """Return the last station: what viewers get, quiet where nothing is told of it."""
    if there is None:
        return Station(RECEIVED, "", AGREES)
    value = _show(trait, there.value) or ABSENT
    return Station(RECEIVED, value if there.is_wrong else "", DIFFERS if there.is_wrong else AGREES)


def _show(trait: Trait, value: TraitValue | None) -> str:
    if value is None:
        return ""
    return trait.show(value) if trait.family == SOUND else trait.form.show(value)


def _drawn(trait: Trait, station: str, verdict: Verdict) -> str:
    """Return how a station is drawn: by its witness's own state, quiet where that harms nothing."""
    if station in ("Promise", "Master"):
        return AGREES
    states = verdict.states
    state: str = getattr(states, station.lower())
    if state == CANNOT_TELL:
        # The picture has no part in how a file is carried, nor in most tags.
        quiet = verdict.verdict == KEPT and trait.rule not in PICTURED
        quiet = quiet or trait.family == CARRIAGE
        return AGREES if quiet else UNKNOWN
    if state == SILENT:
        # The other witness speaks, silence means what was promised, or nothing can be said there.
        harmless = not states.wrapper == states.stream == SILENT or not trait.declared
        return AGREES if harmless or verdict.verdict in (KEPT, UNPROVEN) else SILENCE
    return AGREES if state == KEPT else DIFFERS
