"""Which conversion of light or colour explains the picture, if one does better than any other."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..measured import Act, ActFit, FoldFindings, PairSurvey
from . import tolerances
from .edges import ended_at, is_flat_inside, may_be_blur, still_rises
from .folding import peak_of

COLOUR_ACTS = {"matrix-swapped": "matrix", "gamut-converted": "primaries", "gamut-clipped": ""}
"""Acts that leave greys where they are → the trait whose code no longer fits; none for a clip."""
LIGHT_ACTS = frozenset({"transfer-converted", "tone-compressed", "highlights-clipped"})
TONE_ALONE = frozenset({"range-compressed", "range-expanded", "gamma-shifted"})
ALIKE = {"tone-compressed", "highlights-clipped"}


@dataclass(frozen=True, slots=True)
class FoundAct:
    """An act, or two, that explain the picture: how sure that is, and what the next best leaves.

    fold: where HDR became SDR. colour: the part that moved colours; light: the part that moved
    tone; one of them may be None.
    """

    fit: ActFit
    moved: float
    strength: float
    runner_up: ActFit | None
    fold: FoldFindings | None = None

    @property
    def colour(self) -> Act | None:
        """Return the act that leaves greys where they are."""
        return next((act for act in self.fit.acts if act.name in COLOUR_ACTS), None)

    @property
    def light(self) -> Act | None:
        """Return the act on tone."""
        return next((act for act in self.fit.acts if act.name not in COLOUR_ACTS), None)


def found_conversion(survey: PairSurvey | None) -> FoundAct | None:
    """Return the conversion, or the two acts, that explain the picture best.

    None where nothing moved, where a lone range act or power does, where none ends close, and
    where two explain alike.
    """
    if survey is None or not survey.acts:
        return None
    if survey.fold is not None:
        return (
            _unmade(survey.fold, survey.acts)
            if survey.fold.promised
            else _folded(survey.fold, survey)
        )
    found = _explained(survey)
    if found is None and not _explained_alone(survey.acts):
        return _rolled_off(survey) or _at_edge(survey)
    if found is None or found.fit.act not in ALIKE:
        return found
    ended = _at_edge(survey)
    if ended is None and found.fit.act == "tone-compressed" and is_flat_inside(survey):
        return None  # the middle of all places is nearer to a roll-off, and inside nothing rises
    if ended is None or ended.fit.act == found.fit.act == "tone-compressed":
        return found  # a fitted curve knows its peak better
    return ended


def _explained_alone(acts: Sequence[ActFit]) -> bool:
    """Return whether a lone range act or power explains what moved."""
    best = acts[0]
    moved = next((fit.residual for fit in acts if fit.act == "identity"), 0.0)
    if best.act not in TONE_ALONE or moved <= tolerances.ACT_CODES:
        return False
    return (
        best.residual <= tolerances.EXPLAINED_CODES and moved > tolerances.CLEAR_WIN * best.residual
    )


def _explained(survey: PairSurvey) -> FoundAct | None:
    """Return the conversion, or both acts, by the middle of all places."""
    others = [fit for fit in survey.acts if fit.act != "identity"]
    identity = next((fit.residual for fit in survey.acts if fit.act == "identity"), 0.0)
    best, runner_up = others[0], others[1] if len(others) > 1 else None
    if not best.parts and best.act not in COLOUR_ACTS and best.act not in LIGHT_ACTS:
        return None
    if identity <= tolerances.ACT_CODES or best.residual > tolerances.EXPLAINED_CODES:
        return None
    alike = runner_up is not None and {best.act, runner_up.act} == ALIKE
    lead = tolerances.CURVES_ALIKE if alike else tolerances.CLEAR_WIN
    next_best = runner_up.residual if runner_up else identity
    if identity <= tolerances.CLEAR_WIN * best.residual or next_best <= lead * best.residual:
        return None
    strength = round(next_best / (next_best + best.residual), 2)
    return FoundAct(best, identity, strength, runner_up)


def _rolled_off(survey: PairSurvey) -> FoundAct | None:
    """Return a roll-off along a curve of its own: none of ours, and yet nearest to ours by far.

    Highlights still rise above where it begins; cut ones do not.
    """
    best, *others = [fit for fit in survey.acts if fit.act != "identity"]
    identity = next((fit.residual for fit in survey.acts if fit.act == "identity"), 0.0)
    other = next((fit for fit in others if fit.act != "highlights-clipped"), None)
    next_best = min(other.residual if other else identity, identity)
    edge = survey.highlights
    if best.act != "tone-compressed":
        return None
    if not tolerances.EXPLAINED_CODES < best.residual < tolerances.ROLLED_CODES:
        return None  # closer, and a cut explains it as well
    if next_best <= tolerances.ROLLED_LEAD * best.residual:
        return None
    if edge is None or not tolerances.EDGE_SLOPE < edge.slope < tolerances.ROLLED_SLOPE:
        return None
    if is_flat_inside(survey):
        return None
    strength = round(next_best / (next_best + best.residual), 2)
    return FoundAct(best, identity, strength, other)


def _at_edge(survey: PairSurvey) -> FoundAct | None:
    """Return what was cut at an edge, which moves too few places for the middle of all to tell."""
    ended = _ended(survey)
    if ended is not None:
        return ended
    moved = next((fit.residual for fit in survey.acts if fit.act == "identity"), 0.0)
    if moved > tolerances.EXPLAINED_CODES:
        return None  # colours all over moved: what lay outside did by that
    for narrower in reversed(survey.gamut_edges):
        left = max(narrower.came / narrower.given, 0.0)
        if left <= tolerances.EDGE_LEFT:
            fit = ActFit(act="gamut-clipped", residual=left, values={"to": narrower.gamut})
            return FoundAct(fit, 1.0, round(1 / (1 + left), 2), None)
    return None


def _ended(survey: PairSurvey) -> FoundAct | None:
    """Return the cut or the roll-off that the brightest light shows."""
    found = ended_at(survey)
    if found is None:
        return None
    act, edge = found
    if may_be_blur(survey, edge) or still_rises(survey.even_highlights, edge):
        return None
    level = round(edge.level if edge.nits is None else edge.nits, 4)
    if act == "highlights-clipped":
        fit = ActFit(act=act, residual=edge.cut, values={"level": level})
    else:
        fit = ActFit(act=act, residual=edge.rolled, values={"peak": level})
    return FoundAct(fit, edge.kept, round(edge.kept / (edge.kept + fit.residual), 2), None)


def _folded(fold: FoldFindings, survey: PairSurvey) -> FoundAct:
    """Return the fold that nobody promised; a survey holds none but a sure one (pairing.py)."""
    fit = ActFit(act="tone-compressed", residual=fold.scatter, values={"peak": peak_of(fold)})
    strength = round(fold.untouched / (fold.untouched + fold.scatter), 2)
    return FoundAct(fit, fold.untouched, strength, survey.acts[0], fold)


def _unmade(fold: FoldFindings, acts: Sequence[ActFit]) -> FoundAct | None:
    """Return the conversion back to HDR, where the promised fold was not made at all."""
    if fold.untouched > tolerances.EXPLAINED_CODES:
        return None
    moved = next((fit.residual for fit in acts if fit.act == "identity"), 0.0)
    values = {"from": 1, "to": fold.transfer}
    fit = ActFit(act="transfer-converted", residual=fold.untouched, values=values)
    strength = round(moved / (moved + fold.untouched), 2)
    return FoundAct(fit, moved, strength, None)
