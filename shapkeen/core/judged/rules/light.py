"""Light: transfer function, range, depth, mastering display and light levels."""

from collections.abc import Mapping
from dataclasses import replace

from ...declared import TraitValue
from ...measured import CodeUse, LightLevels
from .. import tolerances
from ..conversion import found_conversion
from ..edges import swims
from ..equivalence import equivalent_display
from ..evidence import (
    Evidence,
    is_range_converted,
    needed_act,
    satisfies,
    tone_act,
    tone_state,
)
from ..model import BENT, CANNOT_TELL, KEPT, LOST, Measure, Ruling, bent, kept, lost, unproven
from .colour import judge_code_by_state
from .tag import judge_tag, shown
from .tone import TONE_WHY, tone_measure

RANGE_ACTS = frozenset({"range-compressed", "range-expanded"})

NO_GRADIENT = "Declared as promised; no gradient is smooth enough to show levels that are missing."
LIMITED_ONLY = frozenset({"mpeg2", "mpeg1video", "vp8", "vc3", "prores", "dvvideo"})
"""Codecs whose headers cannot state a range, since their standards know only the limited one."""


def judge_transfer(evidence: Evidence, trait: str) -> Ruling:
    """Judge the transfer function by tags and by whether the tone curve is the master's."""
    found = found_conversion(evidence.survey)
    shows = None
    if found is not None and found.light is not None and found.light.name == "transfer-converted":
        shows = int(found.light.values["to"])
    return judge_code_by_state(evidence, trait, tone_state(evidence), shows=shows)


def judge_alternative_transfer(evidence: Evidence, trait: str) -> Ruling:
    """Judge the preferred transfer message; a file tagged with that transfer needs none."""
    promised = evidence.promised(trait).value
    if not evidence.spoken(trait) and promised in evidence.spoken("transfer"):
        return kept("The file is tagged with this transfer function itself.")
    return judge_tag(evidence, trait)


def judge_range(evidence: Evidence, trait: str) -> Ruling:
    """Judge which codes are black and white: flags and code values must fit together."""
    tags = _range_tags(evidence, trait)
    promised = evidence.promised(trait).value
    act = tone_act(evidence.survey)
    if act is None:
        return tags if tags.verdict != "kept" else unproven("The picture could not be compared.")
    needed, measure = needed_act(evidence), tone_measure(act)
    if act.act in RANGE_ACTS and act.act != needed:
        text = f"{TONE_WHY[act.act]} The flags ask for no such change."
        squeezed = "limited" if act.act == "range-compressed" else "full"
        return lost(text, picture=squeezed, measure=measure, picture_state=LOST)
    picture = promised if act.act == "identity" else None
    state = KEPT if act.act in (needed, "identity") else CANNOT_TELL
    if tags.verdict == "kept":
        if act.act not in (*RANGE_ACTS, "identity"):
            return unproven("The tone changed otherwise, so the range cannot be told apart.")
        text = "Flag and code values fit the promise."
        return kept(text, picture=picture, measure=measure, picture_state=state)
    if is_range_converted(evidence):
        text = "The range was converted, flag and code values together: viewers see no change."
        found = evidence.spoken(trait)[0]
        return bent(text, picture=found, measure=measure, picture_state=BENT)
    return replace(tags, picture=picture, measure=measure, picture_state=state)


def _range_tags(evidence: Evidence, trait: str) -> Ruling:
    unflagged = not evidence.spoken(trait) and evidence.export.video.codec in LIMITED_ONLY
    if unflagged and evidence.promised(trait).value == "limited":
        return kept("This codec has no flag for the range: it is limited.")
    return judge_tag(evidence, trait)


def judge_bit_depth(evidence: Evidence, trait: str) -> Ruling:
    """Judge whether the promised levels are there; at most bent without an explicit promise."""
    promised = evidence.promised(trait)
    spoken = evidence.spoken(trait)
    if not spoken and evidence.survey is not None:
        spoken = [evidence.survey.export_codes.depth]  # some codecs have one depth, and no field
    if not spoken:
        return unproven("No witness states a bit depth.")
    if not all(_carries(promised.value, value) or satisfies(promised, value) for value in spoken):
        least = min(value for value in spoken if isinstance(value, int))
        text = f"Promised {promised.value} bits; the export carries {least}."
        return lost(text) if promised.explicit else bent(text)
    if promised.value == 8:
        text = "Eight bits were promised, and at least eight are coded."
        return kept(text, picture=8, picture_state=KEPT)
    return _judge_levels(evidence, promised.value)


def _carries(promised: TraitValue | None, value: TraitValue) -> bool:
    return isinstance(value, int) and isinstance(promised, int) and value >= promised


def is_combed(codes: CodeUse) -> bool:
    """Return whether nearly all codes share one remainder, as 8 bits in 10 leave them."""
    return codes.comb >= tolerances.COMB_REDUCED


def staircase_share(evidence: Evidence) -> float | None:
    """Return how much of an 8-bit staircase smooth blocks carry; None where none can tell.

    A changed tone or colour moves codes by their value, which looks like a staircase and is none.
    """
    survey, act = evidence.survey, tone_act(evidence.survey)
    if survey is None or survey.depth is None or act is None or act.act != "identity":
        return None
    if found_conversion(survey) is not None:
        return None
    return survey.depth.step_share


def has_staircase(evidence: Evidence) -> bool:
    """Return whether smooth blocks carry the levels of fewer bits.

    Rough coding is none, nor are tones that stayed closer than so coarse a level lets them, or
    went further off.
    """
    share, survey = staircase_share(evidence), evidence.survey
    if share is None or survey is None or survey.tone is None or swims(survey):
        return False
    step = 1 << (10 - bits_left(evidence))
    least, most = tolerances.STEP_LEFT
    fits = least * step <= survey.tone.residual("identity") <= most * step
    return fits and share >= tolerances.STEP_SHARE_REDUCED


def bits_left(evidence: Evidence) -> int:
    """Return how many bits the levels in use need, once they are known to be fewer."""
    survey = evidence.survey
    if survey is None:
        return 8
    if is_combed(survey.export_codes):
        return survey.export_codes.bits
    if survey.depth is None:
        return 8
    # Of its own staircase coding leaves a part, and as much of a coarser one.
    gain, more = tolerances.STEP_SHARE_COARSER
    least = gain * survey.depth.step_share + more
    full = [by for by, share in enumerate(survey.depth.coarser) if share >= least]
    return 8 - (max(full) + 1 if full else 0)


def _judge_levels(evidence: Evidence, promised: TraitValue | None) -> Ruling:
    survey = evidence.survey
    if survey is None:
        return unproven("The picture could not be compared.")
    if is_combed(survey.export_codes):
        if is_combed(survey.master_codes):
            return kept("The master itself uses no finer levels than these.")
        measure = Measure(
            "codes on one remainder of 4",
            survey.export_codes.comb,
            "share",
            tolerances.COMB_REDUCED,
        )
        bits = bits_left(evidence)
        text = f"Only one code in {1 << (survey.export_codes.depth - bits)} is used: {bits} bits."
        return lost(text, picture=bits, measure=measure, picture_state=LOST)
    share = staircase_share(evidence)
    if share is None:
        act = tone_act(survey)
        if act is not None and act.act not in ("identity", needed_act(evidence)):
            return unproven("Tones moved, so that levels cannot be held against the master's.")
        return kept(NO_GRADIENT)
    measure = Measure("8-bit staircase", round(share, 3), "share", tolerances.STEP_SHARE_REDUCED)
    if has_staircase(evidence):
        bits = bits_left(evidence)
        text = f"Smooth gradients carry a staircase of {bits} bits."
        return lost(text, picture=bits, measure=measure, picture_state=LOST)
    if share > tolerances.STEP_SHARE_CLEAN:
        return unproven("Smooth gradients are too damaged to tell their levels.", measure=measure)
    text = "Smooth gradients keep their fine levels."
    return kept(text, picture=promised, measure=measure, picture_state=KEPT)


def judge_mastering_display(evidence: Evidence, trait: str) -> Ruling:
    """Judge the mastering display; wrappers round it, so values are compared as numbers."""
    promised = evidence.promised(trait).value
    spoken = evidence.spoken(trait)
    if not spoken:
        return lost("No witness states the mastering display.")
    if evidence.in_conflict(trait):
        return lost("Wrapper and stream state different mastering displays.")
    if not all(equivalent_display(promised, value) for value in spoken):
        return lost(f"Promised {shown(trait, promised)}, stated {shown(trait, spoken[0])}.")
    return kept("Every witness that speaks states the promised display.")


def declared_light(evidence: Evidence) -> tuple[Mapping[str, TraitValue] | None, bool]:
    """Return the export's light level (0, 0 counts as none), and whether witnesses differ."""
    spoken = [
        value
        for value in evidence.spoken("content_light")
        if isinstance(value, Mapping) and (value.get("max_cll") or value.get("max_fall"))
    ]
    return (spoken[0] if spoken else None), len(spoken) > 1 and spoken[0] != spoken[1]


def light_figure(value: TraitValue | None, key: str) -> float | None:
    """Return one figure of a light level, None where it is not stated."""
    found = value.get(key) if isinstance(value, Mapping) else None
    return float(found) if isinstance(found, int | float) and found else None


def measured_light(light: LightLevels | None) -> dict[str, TraitValue] | None:
    """Return the picture's own light as it is judged: a stray sample moves no 99.9th percentile."""
    return {"max_cll": round(light.p999), "max_fall": round(light.max_fall)} if light else None


def plain_light(light: LightLevels | None) -> dict[str, TraitValue] | None:
    """Return the picture's own light by its single brightest sample, as CTA-861.3 defines it."""
    return {"max_cll": round(light.max_cll), "max_fall": round(light.max_fall)} if light else None


def judge_content_light(evidence: Evidence, trait: str) -> Ruling:
    """Judge MaxCLL and MaxFALL against the promise and against the picture's own light."""
    promised = evidence.promised(trait).value
    declared, conflict = declared_light(evidence)
    state = _light_state(evidence, promised)
    light = evidence.survey.export_light if evidence.survey else None
    picture = measured_light(light)
    if declared is None:
        text = "No witness states a light level, or only 0, which means unknown."
        return lost(text, picture=picture, picture_state=state)
    if conflict:
        text = "Wrapper and stream state different light levels."
        return lost(text, picture=picture, picture_state=state)
    ceiling = light_figure(declared, "max_cll")
    measure = None
    if light and ceiling:
        limit = _most_light(evidence, ceiling)
        measure = Measure(
            "99.9th percentile of light", round(light.p999, 1), "cd/m²", round(limit, 1)
        )
    if declared != promised:
        text = f"Promised {shown(trait, promised)} cd/m², stated {shown(trait, dict(declared))}."
        return lost(text, picture=picture, measure=measure, picture_state=state)
    if measure and measure.value > measure.limit:
        text = "Stated as promised, but the picture is brighter than that."
        return bent(text, picture=picture, measure=measure, picture_state=BENT)
    if measure is None:
        return unproven("Stated as promised; there is no MaxCLL or no light to hold it against.")
    text = "Stated as promised, and the picture stays below it."
    return kept(text, picture=picture, measure=measure, picture_state=KEPT)


def _light_state(evidence: Evidence, promised: TraitValue | None) -> str:
    """Return whether the picture's own light stays below the promised MaxCLL."""
    light = evidence.survey.export_light if evidence.survey else None
    ceiling = light_figure(promised, "max_cll")
    if light is None or ceiling is None:
        return CANNOT_TELL
    return KEPT if light.p999 <= _most_light(evidence, ceiling) else BENT


def _most_light(evidence: Evidence, ceiling: float) -> float:
    """Return how bright the export's picture may be under a MaxCLL: a tenth beyond, or what coding
    adds to a master that itself lies a little above it."""
    limit = ceiling * tolerances.LIGHT_LEVEL
    own = evidence.survey.master_statistics.light if evidence.survey else None
    if own is None or own.p999 > ceiling * tolerances.LIGHT_ABOVE:
        return limit
    return max(limit, own.p999 * tolerances.LIGHT_CODED)
