"""Building a report from a comparison and what a library knows beside it."""

from dataclasses import replace
from datetime import UTC, datetime

from ...declared import Declaration
from ...judged import Comparison, Verdict
from ...judged.model import KEPT, UNPROVEN, Measure
from ...measured import FIRST_LOOK
from ...promised import promise_words, trait_by_name
from ..bench import CauseLine, bench_families, cause_lines, tally
from ..figures.thread import station_heads
from ..slip import slip_of
from ..survival import survival_object
from .limits import source_of
from .model import (
    CauseLines,
    Facts,
    Figure,
    FileLines,
    PicturePair,
    Report,
    TraitLines,
    WaivedFinding,
)

SENTENCES = {
    "kept": "Everything promised came through.",
    "unproven": "Nothing broke; what no witness could prove is named below.",
    "bent": "Something changed, and somebody has to decide.",
    "lost": "Viewers will not get what was promised.",
}


def telling_moment(comparison: Comparison) -> tuple[int, int] | None:
    """Return the frames of master and export that show best what happened; None without a pair."""
    survey = comparison.survey
    rows = [(one.master_frame, one.export_frame) for one in survey.series or survey.pairs]
    if not rows:
        return None
    frame = _telling_frame(comparison)
    return min(rows, key=lambda row: abs(row[1] - frame))


def _telling_frame(comparison: Comparison) -> int:
    verdicts = {one.trait: one for one in comparison.survival.verdicts}
    for cause in comparison.survival.causes:
        return slip_of(comparison, verdicts[cause.traits[0]]).frame
    worst = [one for one in comparison.survival.verdicts if one.verdict not in (KEPT, UNPROVEN)]
    if worst:
        return slip_of(comparison, worst[0]).frame
    found = comparison.survey.difference
    return found.worst_frame if found else comparison.survey.pairs[0].export_frame


def report_of(comparison: Comparison, facts: Facts, *, pair: PicturePair | None = None) -> Report:
    """Return the report of one export. pair: drawn at telling_moment."""
    survival, survey = comparison.survival, comparison.survey
    facts = facts if facts.made_at else _dated(facts)
    return Report(
        facts=facts,
        overall=survival.overall,
        sentence=SENTENCES[survival.overall],
        stage=survey.stage,
        tally=tuple(tally(survival.verdicts)),
        files=(
            _file("master", comparison.master, facts.digests.master),
            _file("export", comparison.export, facts.digests.export),
        ),
        causes=tuple(_cause(line) for line in cause_lines(comparison)),
        families=tuple(_families(comparison, facts)),
        heads=station_heads(),
        unmeasured=tuple(_unmeasured(comparison)),
        notes=tuple(note.text for note in survival.notes),
        coverage=_coverage(comparison),
        survival=survival_object(comparison),
        pair=pair,
    )


def _dated(facts: Facts) -> Facts:
    return replace(facts, made_at=datetime.now(UTC))


def _file(role: str, declaration: Declaration, sha256: str) -> FileLines:
    video, file = declaration.video, declaration.file
    told = [video.codec, video.profile, f"{video.frame_count} frames" if video.frame_count else ""]
    words = ", ".join(str(one) for one in told if one)
    return FileLines(role, file.name, file.size_bytes, sha256, words)


def _cause(line: CauseLine) -> CauseLines:
    cause = line.cause
    return CauseLines(
        id=cause.id,
        title=line.title,
        worst=line.worst,
        why=cause.why,
        cure=cause.cure,
        rate=cause.confidence,
    )


def _families(comparison: Comparison, facts: Facts) -> list[tuple[str, tuple[TraitLines, ...]]]:
    waived = {one.trait: one for one in facts.waived}
    found = []
    for family in bench_families(comparison):
        rows = {row.trait.name: row for row in (*family.broken, *family.kept)}
        lines = tuple(
            _trait(comparison, row.verdict, row.drawing, waived.get(name))
            for name, row in rows.items()
        )
        found.append((family.name, lines))
    return found


def _trait(
    comparison: Comparison, verdict: Verdict, thread: str, waiver: WaivedFinding | None
) -> TraitLines:
    trait = trait_by_name(verdict.trait)
    assert trait is not None  # noqa: S101  (verdicts are given for registered traits only)
    promised = promise_words(trait, comparison.promise.traits[trait.name])
    base = TraitLines(
        name=trait.name,
        title=trait.title,
        family=verdict.family,
        verdict=verdict.verdict,
        why=verdict.why,
        thread=thread,
        meaning=trait.meaning,
        promised=promised,
        figure=_figure(verdict.measure),
    )
    if verdict.verdict == KEPT:
        return base
    slip = slip_of(comparison, verdict)
    return replace(
        base,
        lines=slip.lines,
        drawing=slip.figure,
        caption=slip.figure_caption,
        cause=slip.cause_title,
        waiver=waiver,
    )


def _figure(measure: Measure | None) -> Figure | None:
    if measure is None:
        return None
    return Figure(
        name=measure.name,
        value=f"{measure.value:g}",
        unit=measure.unit,
        limit=f"{measure.limit:g}",
        source=source_of(measure.name),
    )


def _unmeasured(comparison: Comparison) -> list[tuple[str, str]]:
    """Return what was not measured or could not be told, and why."""
    found = []
    if comparison.survey.stage == FIRST_LOOK:
        pairs = len(comparison.survey.pairs)
        why = f"a first look: {pairs} pairs of frames were sought out, the others were not read"
        found.append(("Every frame", why))
    for verdict in comparison.survival.verdicts:
        if verdict.verdict == UNPROVEN:
            trait = trait_by_name(verdict.trait)
            found.append((trait.title if trait else verdict.trait, verdict.why))
    found += [("File", notice.text) for notice in comparison.export.notices]
    return found


def _coverage(comparison: Comparison) -> str:
    survey = comparison.survey
    if survey.stage == FIRST_LOOK or not survey.likeness:
        return f"{len(survey.pairs)} pairs of frames were compared."
    return (
        f"All {survey.likeness.frames} frames that both have were compared, "
        f"{len(survey.pairs)} pairs of them closely. Codes are on the 10-bit scale."
    )
