"""Time: frame rate, and whether every frame is there."""

from .. import tolerances
from ..evidence import Evidence, as_rate, meets, shown_rate
from ..model import Judgement, Measure, bent, kept, lost, unproven
from .tag import shown


def judge_frame_rate(evidence: Evidence, trait: str) -> Judgement:
    """Judge the rate; the wrapper's times are what players show frames by."""
    promised = evidence.promised(trait)
    wanted = as_rate(promised.value)
    found, witness = shown_rate(evidence.export)
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
    if survey is None or survey.difference is None:
        return unproven("The frames could not be matched with the master's.")
    counts = (
        evidence.master.video.frame_count or survey.master_frames,
        evidence.export.video.frame_count or survey.export_frames,
    )
    if None in counts:
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
