"""What the brightest light says: it ends at a level, it rolls off, or merely no longer rises.

Its figures decide where the middle of all places cannot, for highlights cover few of them. What
photographs and a field of stars show, cut, rolled off, blurred and coded: docs/diagnosis.md.
"""

from ..measured import HighlightEdge, PairSurvey
from . import tolerances

MOST_ALIKE, SURELY_LESS = 1.17, 1.75
"""A cut's remainder ÷ a roll-off's: cut photographs leave 0.2 to 1.15, rolled ones mostly more.
Small lights, which coding itself wears down, leave 1.05 to 1.7 either way."""
ROUGH_GAIN = 0.3
"""Of what no act leaves over: where coding was rough, a cut may leave more than EXPLAINED_CODES."""
NEARLY_FLAT = 0.15
SHARP_CODES, SHARP_SLOPE, SHARP_GAIN = 2.4, 0.08, 0.2
"""Cut photographs show a rise of -0.03 to 0.03, and by even places 0.00 to 0.03; what a cut leaves
there is 0.01 to 0.18 of what no act leaves. Roll-offs to well below their peak rise by 0.12."""
NEAR_LEVEL, RISING = 0.98, 0.5
SHARP_LEAD, EVEN_LEAD = 0.6, 1.5
"""A cut's remainder ÷ a roll-off's, at most."""
ROLLED_RISE, ROLLED_DEEP, SURE_RISE = (0.09, 0.42), 9.0, 0.13
"""How far rolled-off light still rises, and the codes by which it sank. Below SURE_RISE cuts that
coding wore down look the same: of small lights (0.10 to 0.12, 2.2 to 2.6 times as much left over)
nobody can tell."""
CALM_LEAD, CALM_SLOPE = 0.8, 0.12
FLAT_LEAD, FLAT_CALM = 1.1, 0.06
"""A cut's remainder ÷ a roll-off's, and how far light still rises, by calm samples: cut photographs
and stars show 0.15 to 1.1 and -0.13 to 0.10; roll-offs 0.68 and more, where they rise by 0.18, and
none that has levels enough rises by less than 0.09."""
RISES_LEAD, FEW_LEVELS = 1.5, 3.0
BENT_SLOPE, BENT_LEAD = 0.055, 1.2
"""How far calm light still rises above a level, and a cut's remainder ÷ a roll-off's, where it was
bent: cut photographs show less of one or of the other, wherever they have levels enough."""
CUT_SAMPLES, ROLLED_SAMPLES, CUT_LEVELS = 200, 5000, 1.8
"""Of fewer, stars and sparks, or of one level alone, the master's own white, nobody can tell."""
CALM_SAMPLES, CALM_LEVELS, CALM_RISE, SAME_LEVEL = 500, 4.0, 0.1, 0.03
"""How many samples, on how many levels above the cut: 2 to 3 where a master's own white is all
there is, 5 and more elsewhere."""
FLAT_EVEN = 0.05
"""How far light of even places rises above a cut, where they alone decide."""
FLAT_SLOPE, FLAT_CODES, FLAT_GAIN = 0.4, 3.5, 0.6
"""Whatever did it: no healthy export shows less rise and a cut so much nearer than none. What blurs
and rough coding sink may, so fine structure must be there."""


def ended_at(survey: PairSurvey) -> tuple[str, HighlightEdge] | None:
    """Return the act that the brightest light shows, and the edge that shows it; None of none.

    Even places first, which hold neither grain nor borders; then calm samples, then all of them.
    """
    even, calm, edge = survey.even_highlights, survey.calm_highlights, survey.highlights
    may_be_cut = calm is None or not _rises_calmly(calm) or _outweighs(even, calm)
    if calm is not None and (edge is None or not _is_same_level(calm, edge)):
        # Of another part of the picture: the light that ends has no calm there. Yet none may lie
        # above a cut, and rise.
        may_be_cut = may_be_cut or edge is None or calm.level < edge.level
        calm = None
    if even is not None and may_be_cut and _is_cut_evenly(even):
        return "highlights-clipped", even
    if edge is None:
        return None
    if calm is not None and _is_cut_calmly(calm):
        return "highlights-clipped", calm
    if may_be_cut and _is_cut(edge):
        return "highlights-clipped", edge
    if calm is not None and _is_flat_calmly(calm):
        return None
    for one in (edge, calm):
        if one is not None and _is_rolled_off(one) and not _may_end(one, even, calm):
            return "tone-compressed", one
    return None


def _is_same_level(one: HighlightEdge, other: HighlightEdge) -> bool:
    return abs(one.level - other.level) <= SAME_LEVEL * other.level


def _outweighs(even: HighlightEdge | None, calm: HighlightEdge) -> bool:
    """Return whether even places end at a level above which calm samples hardly rise."""
    if even is None or not _is_same_level(even, calm) or calm.slope >= CALM_RISE:
        return False
    enough = even.levels >= FEW_LEVELS and even.slope <= FLAT_EVEN
    return enough and _is_cut_evenly(even) and even.cut <= SHARP_LEAD * even.rolled


def _may_end(one: HighlightEdge, even: HighlightEdge | None, calm: HighlightEdge | None) -> bool:
    """Return whether even places, or calm samples, are told as well by a cut at that level."""
    if even is not None and _is_same_level(even, one) and _ends(even):
        return True
    if calm is None or not _is_same_level(calm, one) or calm.samples < CALM_SAMPLES:
        return False
    return calm.slope < SURE_RISE and calm.cut <= BENT_LEAD * calm.rolled


def _ends(even: HighlightEdge) -> bool:
    return even.levels >= CUT_LEVELS and even.slope <= CALM_RISE and even.cut <= even.rolled


def _is_cut_calmly(calm: HighlightEdge) -> bool:
    """Return whether the inside of highlights is flat, and light below is where it was."""
    if calm.kept < SHARP_CODES or calm.cut > tolerances.EXPLAINED_CODES:
        return False
    sharp = calm.levels >= CUT_LEVELS and _is_sharp(calm) and _is_flat_calmly(calm)
    if sharp and calm.cut <= SHARP_LEAD * calm.rolled:
        return True
    if calm.levels < CALM_LEVELS:
        return False  # a cut master's own plateau: one level tells nothing of those below it
    if calm.slope <= CALM_SLOPE and calm.cut <= CALM_LEAD * calm.rolled:
        return True
    return _is_flat_calmly(calm) and calm.cut <= FLAT_LEAD * calm.rolled


def _is_flat_calmly(calm: HighlightEdge) -> bool:
    """Return whether nothing rises inside highlights; no curve of roll-off does that."""
    return calm.samples >= CALM_SAMPLES and calm.slope <= FLAT_CALM


def is_flat_inside(survey: PairSurvey) -> bool:
    """Return whether nothing rises inside the highlights that all samples tell of, or inside some
    that end lower."""
    edge, calm = survey.highlights, survey.calm_highlights
    if edge is None or calm is None or calm.level > (1 + SAME_LEVEL) * edge.level:
        return False
    return _is_flat_calmly(calm)


def _rises_calmly(calm: HighlightEdge) -> bool:
    """Return whether the inside of highlights still rises, along a curve of roll-off."""
    if calm.samples < CALM_SAMPLES:
        return False
    lead = calm.cut / max(calm.rolled, 1e-6)
    risen = calm.slope >= CALM_RISE and lead >= 1.0
    bent = calm.levels >= CALM_LEVELS and calm.slope >= BENT_SLOPE and lead >= BENT_LEAD
    untold = calm.levels < FEW_LEVELS or calm.slope >= BENT_SLOPE
    return risen or bent or (untold and lead >= RISES_LEAD)


def _is_cut(edge: HighlightEdge) -> bool:
    """Return whether highlights end at one level, and light below it is where it was."""
    if edge.samples < CUT_SAMPLES or 0 < edge.levels < CUT_LEVELS:
        return False
    if _is_sharp(edge) and edge.cut <= SHARP_LEAD * edge.rolled:
        return True
    limit = max(tolerances.EXPLAINED_CODES, ROUGH_GAIN * edge.kept)
    if edge.slope > tolerances.EDGE_SLOPE or edge.cut > limit or _may_be_rolled_off(edge):
        return False
    alike = edge.slope <= NEARLY_FLAT and edge.cut <= MOST_ALIKE * edge.rolled
    flat = edge.slope <= tolerances.EDGE_SLOPE / 2 or edge.cut <= edge.rolled
    return bool(
        (flat or alike)
        and edge.kept >= tolerances.EDGE_CODES
        and edge.cut <= tolerances.EDGE_GAIN * edge.kept
    )


def still_rises(even: HighlightEdge | None, edge: HighlightEdge) -> bool:
    """Return whether even places go on rising where all together seem to end: what rough coding
    takes from fine bright structure."""
    if even is None or even.level < NEAR_LEVEL * edge.level:
        return False
    return even.slope > RISING and even.cut > even.kept


def _is_cut_evenly(edge: HighlightEdge) -> bool:
    """Return whether highlights of even places end at one level: these hold neither grain nor
    edges, so little is asked of how they lead; but of the master's own white alone nobody can
    tell."""
    one_white = 0 < edge.levels < CUT_LEVELS
    return not one_white and _is_sharp(edge) and edge.cut <= EVEN_LEAD * edge.rolled


def _is_sharp(edge: HighlightEdge) -> bool:
    """Return whether next to nothing rises above a cut that explains all that moved."""
    return (
        edge.kept >= SHARP_CODES
        and edge.slope <= SHARP_SLOPE
        and edge.cut <= SHARP_GAIN * edge.kept
    )


def _is_rolled_off(edge: HighlightEdge) -> bool:
    """Return whether highlights fall ever further behind, where a cut is clearly no explanation."""
    enough = edge.samples >= ROLLED_SAMPLES and edge.slope >= SURE_RISE
    return enough and _may_be_rolled_off(edge)


def _may_be_rolled_off(edge: HighlightEdge) -> bool:
    """Return whether a roll-off explains highlights much better; a worn cut may, too."""
    least, most = ROLLED_RISE
    return (
        edge.kept >= ROLLED_DEEP
        and least < edge.slope <= most
        and edge.cut >= SURELY_LESS * edge.rolled
        and edge.rolled <= tolerances.EXPLAINED_CODES
    )


def is_flattened(survey: PairSurvey) -> bool:
    """Return whether the brightest light no longer rises as it did, by whatever act."""
    edge, detail = survey.highlights, survey.detail
    if edge is None or (detail is not None and detail.transfer < tolerances.DETAIL_CODED):
        return False
    deep = edge.kept >= FLAT_CODES and edge.cut <= FLAT_GAIN * edge.kept
    return deep and edge.slope <= FLAT_SLOPE


def swims(survey: PairSurvey) -> bool:
    """Return whether even places wander round their tone, as they do where coding is so rough that
    skies crawl and skin is patchy; fine structure is gone then, if there was any."""
    tone, detail = survey.tone, survey.detail
    if tone is None or tone.noise < tolerances.SWIMMING_CODES:
        return False
    return detail is None or detail.transfer < tolerances.SWIMMING_DETAIL


def may_be_blur(survey: PairSurvey, edge: HighlightEdge) -> bool:
    """Return whether the brightest light may have sunk into what lies round it, by a blur or by
    rough coding."""
    if swims(survey) and edge.kept < tolerances.EDGE_CODES_SOFT:
        return True
    detail = survey.detail
    if detail is None or detail.follows is None or detail.transfer >= tolerances.DETAIL_LOST:
        return False
    soft = detail.follows > tolerances.BLUR_FOLLOWS
    return soft and edge.kept < tolerances.EDGE_CODES_SOFT
