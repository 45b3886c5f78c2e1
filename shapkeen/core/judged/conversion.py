"""Which conversion of light or colour explains the picture, if one does better than any other."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..measured import Act, ActFit, FoldFindings, PairSurvey
from . import tolerances
from .folding import peak_of

COLOUR_ACTS = {"matrix-swapped": "matrix", "gamut-converted": "primaries", "gamut-clipped": ""}
"""Acts that leave greys where they are → the trait whose code no longer fits; none for a clip."""
LIGHT_ACTS = frozenset({"transfer-converted", "tone-compressed", "highlights-clipped"})
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
