"""Time: frame rate, and whether every frame is there."""

from ...measured import FIRST_LOOK, PairSurvey, TimeFindings
from .. import tolerances
from ..evidence import Evidence, as_rate, satisfies, shown_rate
from ..model import CANNOT_TELL, Measure, Ruling, bent, kept, lost, unproven
from ..pairing import is_frame_for_frame, marks_of
from .tag import shown


def judge_frame_rate(evidence: Evidence, trait: str) -> Ruling:
    """Judge the rate; the wrapper's times are what players show frames by."""
    promised = evidence.promised(trait)
    wanted = as_rate(promised.value)
    found, witness = shown_rate(evidence.export)
    if found is None:
        return unproven("Nothing states or shows a frame rate.")
    pair = (found.numerator, found.denominator)
    if wanted is None:
        fits = satisfies(promised, pair)
        return kept("Within the promised rates.") if fits else lost("Not among the promised rates.")
    off = abs(float(found / wanted) - 1)
    limit = promised.tolerance or tolerances.RATE_SHARE
    measure = Measure("rate off by", round(off * 100, 4), "%", limit * 100)
    if off > limit and pair not in promised.one_of:
        text = f"Promised {shown(trait, promised.value)}, delivered {shown(trait, pair)} frames/s."
        return lost(text, picture=pair, measure=measure)
    return kept(f"The {witness} plays frames at the promised rate.", picture=pair, measure=measure)


def judge_frames(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether the export shows the master's frames, each once, from the first to the last."""
    survey = evidence.survey
    timing = survey.timing if survey else None
    if survey is not None and survey.stage == FIRST_LOOK:
        return _judge_counts(evidence, survey)
    if survey is None or timing is None:
        return unproven("The frames could not be matched with the master's.")
    if not is_frame_for_frame(evidence):
        return bent("Frames were made anew for another rate.", picture="resampled")
    broken = timing.missing + timing.shown_again + timing.foreign
    measure = Measure("frames missing, repeated or foreign", broken, "frames", 0)
    if broken or timing.blended:
        return (lost if broken else bent)(
            f"{_broken_words(timing)}.", picture=_short_words(timing), measure=measure
        )
    if hidden := _broken_stretches(survey):
        return unproven(
            f"Broken pictures hide which frames these are ({hidden}); all others are the master's.",
            measure=measure,
        )
    if timing.still_share > tolerances.STILL_SHARE:
        counts = survey.master_frames, survey.export_frames
        text = "Most frames are like their neighbours, so nobody can tell one from another"
        if _promised_count(evidence, survey) != counts[1]:
            return unproven(f"{text}, and the counts differ.", measure=measure)
        text = f"{text}; as many as {_of_whom(evidence, survey)}."
        return kept(text, measure=measure, picture_state=CANNOT_TELL)
    if timing.has_other_ends:
        text = f"{_ends_words(timing)}; nothing is missing between."
        ruling = lost if _is_seen(evidence, timing) else bent
        return ruling(text, picture=f"{timing.matched} frames", measure=measure)
    whose = "All" if marks_of(evidence.promise, survey.master_frames) is None else "All promised"
    text = f"{whose} {timing.matched} frames are the master's, each once and in order."
    return kept(text, picture="as mastered", measure=measure)


def _judge_counts(evidence: Evidence, survey: PairSurvey) -> Ruling:
    """Judge by how many frames there are: which ones, only every frame tells."""
    wanted, there = _promised_count(evidence, survey), survey.export_frames
    measure = Measure("frames more or fewer", abs((wanted or 0) - (there or 0)), "frames", 0)
    whom = _of_whom(evidence, survey)
    if wanted == there and is_frame_for_frame(evidence):
        text = f"As many as {whom}, {there}; which ones is still to be looked at."
        return kept(text, measure=measure, picture_state=CANNOT_TELL)
    text = f"{there} frames, not as many as {whom}, {wanted}: every frame is still to come."
    return unproven(text, measure=measure)


def _promised_count(evidence: Evidence, survey: PairSurvey) -> int | None:
    marks = marks_of(evidence.promise, survey.master_frames)
    return marks[1] - marks[0] if marks else survey.master_frames


def _of_whom(evidence: Evidence, survey: PairSurvey) -> str:
    marked = marks_of(evidence.promise, survey.master_frames)
    return "lie between the marks" if marked else "the master has"


def _broken_stretches(survey: PairSurvey) -> str:
    """Return where either file is broken, in short; empty where neither is."""
    parts = []
    for name, whole in (("export", survey.export_statistics), ("master", survey.master_statistics)):
        stretches = whole.damage.stretches
        if stretches:
            more = f" and {len(stretches) - 1} more" if stretches[1:] else ""
            parts.append(f"{name} {stretches[0][0]} to {stretches[0][1]}{more}")
    return ", ".join(parts)


def _is_seen(evidence: Evidence, timing: TimeFindings) -> bool:
    """Return whether viewers miss what is cut off: more than a moment, or most of a short clip."""
    cut = timing.trimmed_in + timing.trimmed_out
    rate, _ = shown_rate(evidence.master)
    return cut > timing.matched or bool(rate and cut / rate > tolerances.TRIM_SEEN_S)


def _count(number: int, word: str = "frame") -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


def _broken_words(timing: TimeFindings) -> str:
    parts = []
    if timing.dropped:
        first = timing.dropped[0]
        parts.append(f"{_count(timing.missing)} missing, first {first.master_frame} of the master")
    if timing.repeated:
        first = timing.repeated[0]
        parts.append(f"{_count(timing.shown_again)} shown again, first at {first.export_frame}")
    if timing.foreign:
        parts.append(f"{_count(timing.foreign)} that the master does not have")
    if timing.blended:
        parts.append(f"{_count(len(timing.blended))} mixed of two, first {timing.blended[0]}")
    return "; ".join(parts)


def _short_words(timing: TimeFindings) -> str:
    if timing.missing:
        return f"{timing.missing} missing"
    if timing.shown_again:
        return f"{timing.shown_again} repeated"
    return f"{timing.foreign} foreign" if timing.foreign else f"{len(timing.blended)} mixed"


def _ends_words(timing: TimeFindings) -> str:
    parts = []
    for count, words in (
        (timing.trimmed_in, "cut off at the start"),
        (timing.trimmed_out, "cut off at the end"),
        (timing.added_in, "added before the first"),
        (timing.added_out, "added after the last"),
    ):
        if count:
            parts.append(f"{_count(count)} {words}")
    return ", ".join(parts)
