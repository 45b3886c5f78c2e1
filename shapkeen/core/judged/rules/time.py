"""Time: frame rate, and whether every frame is there."""

from fractions import Fraction

from ...declared import TraitValue
from .. import tolerances
from ..evidence import Evidence, meets
from ..model import Judgement, Measure, bent, kept, lost, unproven
from .tag import shown


def as_rate(value: TraitValue | None) -> Fraction | None:
    """Return a rate as a fraction, None where it is none."""
    if isinstance(value, tuple) and len(value) == 2 and value[1]:
        return Fraction(int(value[0]), int(value[1]))
    return None


def shown_rate(evidence: Evidence) -> tuple[Fraction | None, str]:
    """Return the rate at which players show the export, and who says so."""
    wrapper, stream = (as_rate(value) for value in evidence.stated("frame_rate"))
    if wrapper:
        return wrapper, "wrapper"
    if stream:
        return stream, "stream"
    video = evidence.export.video
    if video.frame_count and video.duration_s:
        return Fraction(video.frame_count / video.duration_s).limit_denominator(1001), "average"
    return None, ""


def judge_frame_rate(evidence: Evidence, trait: str) -> Judgement:
    """Judge the rate; the wrapper's times are what players show frames by."""
    promised = evidence.promised(trait)
    wanted = as_rate(promised.value)
    found, witness = shown_rate(evidence)
    if found is None:
        return unproven("Nothing states or shows a frame rate.")
    pair = (found.numerator, found.denominator)
    if wanted is None:
        fits = meets(promised, pair)
        return kept("Within the promised rates.") if fits else lost("Not among the promised rates.")
    off = abs(float(found / wanted) - 1)
    limit = promised.tolerance or tolerances.RATE_SHARE
    measure = Measure("rate off by", round(off * 100, 4), "%", limit * 100)
    if off > limit and pair not in promised.one_of:
        text = f"Promised {shown(trait, promised.value)}, delivered {shown(trait, pair)} frames/s."
        return lost(text, picture=pair, measure=measure)
    return kept(f"The {witness} plays frames at the promised rate.", picture=pair, measure=measure)


def judge_frames(evidence: Evidence, _trait: str) -> Judgement:
    """Judge whether the export runs from the master's first frame to its last.

    By count and offset, with the compared frames as samples; drops that are made up for by
    repeats between them are not looked for yet.
    """
    survey = evidence.survey
    counts = (evidence.master.video.frame_count, evidence.export.video.frame_count)
    if survey is None or survey.difference is None or None in counts:
        return unproven("The frames could not be matched with the master's.")
    if survey.difference.ssim_worst < tolerances.SAME_FRAME_SSIM:
        return unproven("Not every compared frame is like the master's at that time.")
    if survey.offset or counts[0] != counts[1]:
        begins = f"begins {abs(survey.offset)} frames {'in' if survey.offset > 0 else 'early'}"
        start = begins if survey.offset else "begins with the master"
        text = f"The export {start} and has {counts[1]} frames; the master has {counts[0]}."
        return bent(text, picture=f"{counts[1]} of {counts[0]}")
    text = f"As many frames as the master, and all {len(survey.pairs)} compared ones match."
    return kept(text, picture="as mastered")
