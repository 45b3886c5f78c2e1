"""The Bench's own view of a comparison: rows of threads, and evidence slips."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..colour.codepoints import mean_the_same
from ..declared import TraitValue
from ..judged import Cause, Comparison, Verdict, overall_of
from ..promised import FAMILIES, Trait, stated_by, trait_by_name
from .figures.thread import AGREES, DIFFERS, SILENT, STATIONS, UNKNOWN, Station, bundle, thread

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
    "highlights-clipped": "highlights cut",
    "matrix-swapped": "matrix exchanged",
    "gamut-converted": "colours converted",
    "gamut-clipped": "colours cut",
    "light-level-missing": "light level missing",
    "light-level-understated": "light level understated",
    "squeeze-unflagged": "squeeze not flagged",
    "squeeze-doubled": "squeeze applied twice",
    "index-last": "index last",
    "level-exceeded": "level exceeded",
    "rate-changed": "rate changed",
    "sphere-unflagged": "sphere not flagged",
    "stereo-unflagged": "eyes not flagged",
    "sphere-misflagged": "sphere flagged wrongly",
    "stereo-misflagged": "eyes flagged wrongly",
}


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
    return CAUSE_TITLES.get(cause.id, cause.id.replace("-", " "))


@dataclass(frozen=True, slots=True)
class CauseLine:
    """One cause over the map: its name, and the worst that it did."""

    cause: Cause
    title: str
    worst: str


def cause_lines(comparison: Comparison) -> list[CauseLine]:
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


def bench_families(comparison: Comparison) -> list[FamilyRows]:
    """Return the families in their order, each with its rows; empty ones are left out."""
    families = []
    for name in FAMILIES:
        verdicts = [v for v in comparison.survival.verdicts if v.family == name]
        if not verdicts:
            continue
        rows = tuple(row_of(comparison, verdict) for verdict in verdicts)
        kept = tuple(row for row in rows if row.verdict.verdict == "kept")
        families.append(
            FamilyRows(
                name=name,
                broken=tuple(row for row in rows if row not in kept),
                kept=kept,
                drawing=bundle(len(kept), label=f"{name}: {len(kept)} kept"),
            )
        )
    return families


def row_of(comparison: Comparison, verdict: Verdict) -> Row:
    """Return one trait's row with its thread drawn."""
    trait = trait_by_name(verdict.trait)
    assert trait is not None  # noqa: S101  (verdicts are given for registered traits only)
    label = f"{trait.title}: {verdict.verdict}. {verdict.why}"
    drawing = thread(_stations(comparison, trait, verdict), verdict=verdict.verdict, label=label)
    return Row(trait, verdict, drawing)


def _stations(comparison: Comparison, trait: Trait, verdict: Verdict) -> list[Station]:
    promised = verdict.promised
    master = stated_by(comparison.master, trait.name)
    master_value = master[1].value if master else promised
    values = (promised, master_value, verdict.wrapper, verdict.stream, verdict.picture)
    return [
        Station(name, _show(trait, value), _state(trait, name, value, verdict))
        for name, value in zip(STATIONS, values, strict=True)
    ]


def _show(trait: Trait, value: TraitValue | None) -> str:
    return "" if value is None else trait.form.show(value)


def _state(trait: Trait, station: str, value: TraitValue | None, verdict: Verdict) -> str:
    if station in ("Promise", "Master"):
        return AGREES
    if station == "Picture":
        return _picture_state(trait, value, verdict)
    if value is None and not trait.declared:
        return AGREES  # nothing can be said there, so the thread runs through
    if value is None:
        spoken = verdict.wrapper is not None or verdict.stream is not None
        # Where the other witness speaks, or silence means what was promised, it is harmless.
        harmless = spoken or verdict.verdict in ("kept", "unproven")
        return AGREES if harmless else SILENT
    agrees = _agrees(trait, value, verdict)
    return AGREES if agrees or verdict.verdict == "kept" else DIFFERS


def _agrees(trait: Trait, value: TraitValue, verdict: Verdict) -> bool:
    same = value == verdict.promised or mean_the_same(trait.name, value, verdict.promised)
    return same or _show(trait, value) == _show(trait, verdict.promised)


def _picture_state(trait: Trait, value: TraitValue | None, verdict: Verdict) -> str:
    if trait.family == "carriage":
        return AGREES  # the picture has no part in it
    if trait.name == "content_light" and value is not None:
        measure = verdict.measure
        return DIFFERS if measure is not None and measure.value > measure.limit else AGREES
    broken = verdict.verdict in ("lost", "bent")
    # Witnesses that all say the right thing leave only the picture to have broken it: squeezed
    # codes, say, show just the limited range that was promised, and are lost.
    by_picture = broken and (_tags_are_right(trait, verdict) or not trait.declared)
    if value is not None:
        ok = verdict.verdict == "kept" or (_agrees(trait, value, verdict) and not by_picture)
        return AGREES if ok else DIFFERS
    if by_picture:
        return DIFFERS
    return AGREES if verdict.verdict == "kept" else UNKNOWN


def _tags_are_right(trait: Trait, verdict: Verdict) -> bool:
    spoken = [said for said in (verdict.wrapper, verdict.stream) if said is not None]
    return bool(spoken) and all(_agrees(trait, said, verdict) for said in spoken)
