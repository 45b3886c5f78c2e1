"""Tone: whether tones sit where they were signed off, everywhere and at the top."""

from collections.abc import Sequence

from ...colour.codepoints import TRANSFERS
from ...measured import HighlightEdge, Misplaced, PairSurvey
from .. import tolerances
from ..conversion import LIGHT_ACTS, found_conversion
from ..edges import FLAT_CODES, is_flattened
from ..evidence import (
    Evidence,
    ToneAct,
    conversion_promised,
    is_laid_over,
    is_surely_moved,
    moved_by,
    needed_act,
    tone_act,
)
from ..model import Measure, Ruling, kept, lost, unproven

TONE_WHY = {
    "range-compressed": "Code values were squeezed from full to limited range.",
    "range-expanded": "Code values were stretched from limited to full range.",
    "transfer-converted": "Tone follows another transfer function.",
    "tone-compressed": "Tone was rolled off into a smaller range.",
    "highlights-clipped": "Highlights are cut flat above one level.",
    "unexplained": "The tone changed, and no single known act explains it.",
}


def tone_measure(act: ToneAct) -> Measure:
    """Return by how much tones moved, with its limit."""
    return Measure("tone moved by", round(act.moved, 2), "codes", tolerances.TONE_CODES)


def judge_tone(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether tones sit where they were signed off, as viewers are made to read them."""
    act = tone_act(evidence.survey)
    if act is None:
        return _judge_few_tones(evidence)
    measure = tone_measure(act)
    if act.fault is not None:
        return lost(act.fault.text, picture=act.fault.kind, measure=act.fault.measure)
    if act.act == "unclear":
        return unproven("Tones differ a little, and no act explains it.", measure=measure)
    if act.act in (needed_act(evidence), "identity"):
        return _judge_unmoved(evidence, act)
    if act.act == "gamma-shifted":
        text = f"Tone follows a power law: out = in^{act.exponent:.3f} on normalised codes."
        return lost(text, picture=f"power {act.exponent:.3f}", measure=measure)
    return lost(TONE_WHY[act.act], picture=_tone_word(evidence, act), measure=measure)


def _judge_unmoved(evidence: Evidence, act: ToneAct) -> Ruling:
    """Judge tones that lie on the whole where they should: parts of them may not."""
    survey, measure = evidence.survey, tone_measure(act)
    if survey and survey.misplaced:
        areas = survey.misplaced
        return lost(_misplaced_words(areas), picture="parts moved", measure=_area_measure(areas))
    if survey and survey.highlights and _is_flattened(evidence, survey):
        return _judge_flattened(survey.highlights)
    if survey and survey.fold:
        text = "HDR was tone-mapped into SDR in a usual way, as promised."
        return kept(text, picture="as promised")
    if conversion_promised(evidence):
        text = f"Tones are as promised within {act.residual:.1f} codes of 1023."
        return kept(text, picture="as promised", measure=measure)
    text = f"Tones match the master's within {act.residual:.1f} codes of 1023."
    return kept(text, picture="as mastered", measure=measure)


def _is_flattened(evidence: Evidence, survey: PairSurvey) -> bool:
    plain = survey.fold is None and not conversion_promised(evidence)
    return plain and is_laid_over(survey) and is_flattened(survey)


def _judge_flattened(edge: HighlightEdge) -> Ruling:
    level = f"{edge.nits:.0f} cd/m²" if edge.nits is not None else f"{edge.level:.0%} of the signal"
    text = f"From about {level} the brightest light no longer rises: cut or rolled off, "
    return lost(
        text + "and too little of it is there to tell which.",
        picture="flattened",
        measure=Measure("highlights moved by", round(edge.kept, 1), "codes", FLAT_CODES),
    )


def _judge_few_tones(evidence: Evidence) -> Ruling:
    if not is_surely_moved(evidence):
        return unproven("The picture has too few even places over too few tones to tell.")
    moved = round(moved_by(evidence.survey), 1)
    return lost(
        "Tones are not where they were; too few even places show by what act.",
        picture="moved",
        measure=Measure("moved by", moved, "codes", tolerances.SURELY_MOVED),
    )


def _misplaced_words(areas: Sequence[Misplaced]) -> str:
    """Return where the worst area lies and how far off its light is."""
    area = areas[0]
    place = f"{_place_word(area.left + area.width / 2, area.top + area.height / 2)} of the picture"
    there, wanted = f"code {area.delivered_code:.0f}", f"{area.expected_code:.0f}"
    if area.delivered_nits is not None and area.expected_nits is not None:
        there, wanted = f"{area.delivered_nits:.3g} cd/m²", f"{area.expected_nits:.3g}"
    more = f" ({len(areas)} areas)" if len(areas) > 1 else ""
    return (
        f"An area at the {place} sits at {there} in place of {wanted}, while the rest is as it "
        f"was: a graphic that was not converted, or a cut?{more}"
    )


def _place_word(x: float, y: float) -> str:
    down = "top" if y < 1 / 3 else "bottom" if y > 2 / 3 else "middle"
    across = "left" if x < 1 / 3 else "right" if x > 2 / 3 else ""
    return f"{down} {across}".strip()


def _area_measure(areas: Sequence[Misplaced]) -> Measure:
    area = areas[0]
    moved = abs(area.delivered_code - area.expected_code)
    return Measure("area moved by", round(moved, 1), "codes", tolerances.MISPLACED_CODES)


def _tone_word(evidence: Evidence, act: ToneAct) -> str:
    """Return what the picture shows, short enough to stand on a thread."""
    found = found_conversion(evidence.survey)
    if found is None or found.light is None or found.light.name not in LIGHT_ACTS:
        return act.act.replace("-", " ")
    values = found.light.values
    if "level" in values:
        return f"cut at {values['level']:.3g}"
    if "peak" in values:
        return f"peak {values['peak']:.3g}"
    return f"as {TRANSFERS[int(values['to'])]}"
