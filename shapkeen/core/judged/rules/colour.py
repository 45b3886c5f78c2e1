"""Colour: code points with a picture behind them, colours themselves, chroma sampling."""

from ...colour.codepoints import mean_the_same
from ...geometry.codec_profiles import CHROMA_ORDER
from .. import tolerances
from ..conversion import COLOUR_ACTS, found_conversion
from ..evidence import (
    CHANGED,
    UNCHANGED,
    UNKNOWN,
    Evidence,
    colour_state,
    conversion_promised,
    needed_act,
    satisfies,
    tone_act,
)
from ..folding import hue_measure
from ..model import BENT, CANNOT_TELL, KEPT, LOST, Measure, Ruling, bent, kept, lost, unproven
from .tag import conflict_text, shown

PICTURE_STATES = {UNCHANGED: KEPT, CHANGED: LOST, UNKNOWN: CANNOT_TELL}


def judge_code_by_state(
    evidence: Evidence,
    trait: str,
    state: str,
    *,
    shows: int | None = None,
    shows_no_loss: bool = False,
) -> Ruling:
    """Judge an H.273 code by both witnesses and by whether the picture's values changed.

    shows: the code that a changed picture follows instead, where that was found. shows_no_loss:
    whether the picture holds nothing in which a loss could show.
    """
    promised = evidence.promised(trait)
    picture = promised.value if state == UNCHANGED else shows
    said_by_picture = PICTURE_STATES[state]
    spoken = evidence.spoken(trait)
    if not spoken:
        text = f"No witness states it; promised {shown(trait, promised.value)}."
        return lost(text, picture=picture, picture_state=said_by_picture)
    if evidence.in_conflict(trait):
        text = conflict_text(evidence, trait)
        return lost(text, picture=picture, picture_state=said_by_picture)
    wrong = [
        value
        for value in spoken
        if not satisfies(promised, value) and not mean_the_same(trait, promised.value, value)
    ]
    if wrong:
        said = shown(trait, wrong[0])
        text = f"It is called {said}, and {shown(trait, promised.value)} was promised."
        if state == UNCHANGED:
            text = f"{text} The code values are untouched."
        return lost(text, picture=picture, picture_state=said_by_picture)
    if state == CHANGED:
        text = "The tags are right, but the picture no longer follows them."
        return lost(text, picture=picture, picture_state=said_by_picture)
    if state == UNCHANGED:
        text = "The tags are right and the code values untouched."
        return kept(text, picture=picture, picture_state=said_by_picture)
    if shows_no_loss:
        text = "The tags are right; the picture has too little colour for a loss to show."
        return kept(text, picture_state=CANNOT_TELL)
    return unproven("The tags are right; the picture cannot tell.")


def judge_colour_code(evidence: Evidence, trait: str) -> Ruling:
    """Judge primaries or matrix: changed colours alone do not say which of them it was."""
    state, found = colour_state(evidence), found_conversion(evidence.survey)
    if state == CHANGED and found is not None and found.colour is not None:
        hurt = COLOUR_ACTS[found.colour.name] == trait
        if not hurt:
            return judge_code_by_state(evidence, trait, UNCHANGED)
        # Coded with another matrix, the picture shows that one; converted, its new primaries.
        values = found.colour.values
        shows = int(values["from" if trait == "matrix" else "to"])
        same = shows == evidence.promise.value(trait)
        return judge_code_by_state(evidence, trait, CHANGED, shows=None if same else shows)
    ruling = judge_code_by_state(
        evidence,
        trait,
        UNKNOWN if state == CHANGED else state,
        shows_no_loss=state == UNKNOWN and is_grey(evidence),
    )
    if state == CHANGED and ruling.verdict == "unproven":
        return unproven("The tags are right; colours moved, and no single act tells what did it.")
    return ruling


def is_grey(evidence: Evidence) -> bool:
    """Return whether tones are as promised and there is too little colour to tell matrices by."""
    tone, act = (evidence.survey.tone if evidence.survey else None), tone_act(evidence.survey)
    if tone is None or act is None or act.act not in ("identity", needed_act(evidence)):
        return False
    fold = evidence.survey.fold if evidence.survey else None
    if fold is not None and fold.promised and fold.hue is None:
        return True  # no hue is strong enough to be seen turning
    moved = tone.chroma_residual > tolerances.CHROMA_CODES
    return tone.chroma_span < tolerances.CHROMA_SPAN_CODES and not moved


def judge_gamut(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether colours themselves are where they were signed off."""
    tone = evidence.survey.tone if evidence.survey else None
    if tone is None:
        return unproven("The picture has too few even places to compare colours.")
    state, act = colour_state(evidence), tone_act(evidence.survey)
    measure: Measure | None = Measure(
        "chroma residual", round(tone.chroma_residual, 2), "codes", tolerances.CHROMA_CODES
    )
    if evidence.survey and evidence.survey.fold:
        measure = hue_measure(evidence.survey.fold)
    if state == UNCHANGED:
        if conversion_promised(evidence):
            text = "Colours are what the promised conversion makes of the master's."
            return kept(text, picture="as promised", measure=measure)
        return kept("Colours match the master's.", picture="as mastered", measure=measure)
    if state == CHANGED:
        return lost("Colours moved against the master.", picture="moved", measure=measure)
    if evidence.survey and evidence.survey.fold and is_grey(evidence):
        return kept("The picture is all but grey: no hue could be seen to turn.", measure=measure)
    unmoved = tone.chroma_residual <= tolerances.CHROMA_CODES
    if act is not None and act.act == "identity" and unmoved:
        return kept("The picture is all but grey, and stayed so.", measure=measure)
    if act is not None and act.act == "identity":
        text = "Small coloured places faded a little; rough coding alone does as much."
        return unproven(text, measure=measure)
    return unproven("Colours cannot be judged apart from the changed tone.", measure=measure)


def judge_chroma(evidence: Evidence, trait: str) -> Ruling:
    """Judge chroma sampling; at most bent without an explicit promise."""
    promised = evidence.promised(trait)
    spoken = [str(value) for value in evidence.spoken(trait)]
    if not spoken:
        return unproven("No witness states a chroma sampling.")
    least = min(spoken, key=CHROMA_ORDER.index)
    wanted = str(promised.value)
    if satisfies(promised, least) or (
        wanted in CHROMA_ORDER and CHROMA_ORDER.index(least) >= CHROMA_ORDER.index(wanted)
    ):
        text = "Colour is sampled as finely as promised."
        return kept(text, picture=least, picture_state=KEPT)
    text = f"Promised {wanted}; the export carries {least}."
    if promised.explicit:
        return lost(text, picture=least, picture_state=LOST)
    return bent(text, picture=least, picture_state=BENT)
