"""Which act took fine structure away, or added to it, if one explains it better than any other."""

from dataclasses import dataclass

from ..colour.codepoints import HDR_TRANSFERS
from ..measured import DetailFindings, DetailFit
from . import tolerances
from .conversion import found_conversion
from .edges import swims
from .evidence import Evidence, is_covered, is_surely_moved
from .folding import fault_of
from .geometry import shear_of
from .pairing import is_out_of_step, is_surely_paired, look_exchanged

LINEAR = "linear"


@dataclass(frozen=True, slots=True)
class FoundDetail:
    """What became of fine structure.

    act: kept, coded (as ordinary coding does), weakened (more than that), unclear (weaker by no
    act), odd (otherwise than any tells), or a cause of the contract. strength: 0.5 where the next
    best explains it as well. fit: of the act, where one was fitted.
    """

    act: str
    strength: float = 0.0
    fit: DetailFit | None = None


def found_detail(evidence: Evidence) -> FoundDetail | None:
    """Return what became of fine structure; None where the picture could not tell."""
    detail = evidence.survey.detail if evidence.survey else None
    eyes = evidence.survey.eyes if evidence.survey else None
    if shear_of(evidence) or (eyes is not None and look_exchanged(eyes)):
        return None  # what is laid over each other there is not the same
    if detail is None:
        ruined = _is_ruined(evidence) or _swims(evidence)
        return FoundDetail("generation-loss", 0.7) if ruined else None
    if _is_folded_otherwise(evidence):
        return None
    if detail.is_enlarged:
        return _enlarged(detail)
    if detail.is_resized and _is_left_behind(evidence):
        return FoundDetail("generation-loss", 0.8)
    if detail.is_resized:
        # Scalers differ in how much they keep, so neither less nor more than ours is an injury.
        return FoundDetail("kept" if detail.transfer >= tolerances.DETAIL_HEALTHY else "odd")
    if tolerances.DETAIL_HEALTHY <= detail.transfer <= tolerances.DETAIL_SHARPENED:
        return FoundDetail("kept")
    if detail.transfer > tolerances.DETAIL_SHARPENED:
        return _sharpened(detail)
    return _weakened(evidence, detail)


def _is_folded_otherwise(evidence: Evidence) -> bool:
    """Return whether tones are so unlike the expected ones that edges cannot be held to them."""
    fold = evidence.survey.fold if evidence.survey else None
    return fold is not None and (not fold.promised or fault_of(fold) is not None)


def _is_ruined(evidence: Evidence) -> bool:
    """Return whether a picture in its place is so unlike the master's that coding alone does it."""
    survey = evidence.survey
    if survey is None or survey.registration is None or survey.difference is None:
        return False
    other = survey.fold or is_covered(survey) or found_conversion(survey)
    if survey.registration.likeness < tolerances.IN_PLACE:
        return False  # bent or sheared: not laid over each other
    if is_surely_moved(evidence):
        return False
    same = survey.master_raster == survey.export_raster
    return same and not other and survey.difference.ssim_mean < tolerances.RUINED_SSIM


def _swims(evidence: Evidence) -> bool:
    """Return whether even places wander by nothing but rough coding: in their place and moment, of
    the master's size and tones, with nothing over them."""
    survey = evidence.survey
    if survey is None or survey.registration is None or not swims(survey):
        return False
    apart = survey.master_raster != survey.export_raster or survey.repacking is not None
    other = survey.fold or survey.misplaced or is_covered(survey) or _has_other_tones(evidence)
    return not apart and not other and is_surely_paired(evidence)


def _is_left_behind(evidence: Evidence) -> bool:
    """Return whether each frame lies elsewhere since coding was too rough to follow what moves: it
    looks as if the picture had another size, and none was made."""
    place = evidence.survey.registration if evidence.survey else None
    return place is not None and place.spread > tolerances.PLACE_SPREAD and _swims(evidence)


def _has_other_tones(evidence: Evidence) -> bool:
    """Return whether light or colour went another way than promised, in part or all over."""
    tone = evidence.survey.tone if evidence.survey else None
    moved = tone is not None and tone.residual("identity") > tolerances.SURELY_MOVED
    return moved or is_surely_moved(evidence) or found_conversion(evidence.survey) is not None


def _sure(best: DetailFit, other: DetailFit | None) -> float:
    """Return how much better one act explains it than another: 0.5 alike, 1 beyond compare."""
    if other is None:
        return 0.9
    return round(other.residual / max(other.residual + best.residual, 1e-9), 2)


def _enlarged(detail: DetailFindings) -> FoundDetail:
    """Return which kernel enlarged it: repeated samples alone are an act of their own."""
    best, runner_up = detail.fits[:2]
    if best.residual > tolerances.ENLARGED_LEFT * detail.structure:
        return FoundDetail("odd")
    lead = tolerances.DETAIL_CLOSER
    if best.act != "enlarged-nearest" or best.residual > lead * runner_up.residual:
        return FoundDetail("kept", _sure(best, runner_up), best)
    fit = DetailFit("upscale-nearest", best.residual, {"ratio": detail.scale[0]})
    return FoundDetail("upscale-nearest", _sure(best, runner_up), fit)


def _sharpened(detail: DetailFindings) -> FoundDetail:
    fit, nothing = detail.fit("oversharpened"), detail.fit("identity")
    if fit is None or nothing is None:
        return FoundDetail("odd")
    if fit.residual > tolerances.DETAIL_SHARPER * nothing.residual:
        return FoundDetail("odd")
    return FoundDetail("oversharpened", _sure(fit, nothing), fit)


def _weakened(evidence: Evidence, detail: DetailFindings) -> FoundDetail:
    place = evidence.survey.registration if evidence.survey else None
    if place is not None and is_out_of_step(evidence, place):
        return FoundDetail("odd")
    if _swims(evidence):
        return FoundDetail("generation-loss", 0.8)
    nothing, repeated = detail.fit("identity"), detail.fit("upscale-nearest")
    blur, smaller = detail.fit("softened"), detail.fit("detail-below-raster")
    if nothing is None or repeated is None or blur is None or smaller is None:
        return FoundDetail("unclear")
    others = min(blur.residual, smaller.residual)
    if repeated.residual < tolerances.DETAIL_LEAD * min(others, nothing.residual):
        return FoundDetail("upscale-nearest", _sure(repeated, blur), repeated)
    follows = detail.follows
    left = others / max(nothing.residual, 1e-9)
    if _ends_at_cliff(evidence, detail, left):
        return FoundDetail("detail-below-raster", max(_sure(smaller, blur), 0.8), smaller)
    if follows is not None and follows < tolerances.DETAIL_FOLLOWS:
        return _coded(evidence, detail)
    if others > tolerances.DETAIL_GAIN * nothing.residual:
        mild = detail.transfer >= tolerances.DETAIL_CODED
        return _coded(evidence, detail) if mild else FoundDetail("unclear")
    return _blurred_or_smaller(detail, blur, smaller)


def _ends_at_cliff(evidence: Evidence, detail: DetailFindings, left: float) -> bool:
    """Return whether structure ends at a cliff, and what is there follows the master's, or is as a
    smaller picture's.

    Coding thins structure out gently, and what it leaves follows nothing, though an encoder that
    filters before it codes makes a cliff as a scaler does. left: share of the difference that a
    blur or a smaller picture does not explain.
    """
    steepness, follows = detail.steepness, detail.follows
    if steepness is None or follows is None:
        return False
    if left >= tolerances.CLIFF_GAIN:
        return False
    nothing = detail.fit("identity")
    clean = (
        left < tolerances.CLIFF_CLEAN
        and _ssim(evidence) >= tolerances.CLIFF_SSIM
        and nothing is not None
        and nothing.residual >= tolerances.CLIFF_LEAST
    )
    scaled = follows > tolerances.CLIFF_FOLLOWS or clean
    return steepness < tolerances.CLIFF_SURE and scaled


def _ssim(evidence: Evidence) -> float:
    """Return the mean SSIM of the compared pairs; 0 without any."""
    difference = evidence.survey.difference if evidence.survey else None
    return difference.ssim_mean if difference else 0.0


def _coded(evidence: Evidence, detail: DetailFindings) -> FoundDetail:
    """Return that coding alone took it: more than an ordinary export loses is an injury."""
    ssim, hdr = _ssim(evidence), evidence.promise.value("transfer") in HDR_TRANSFERS
    limit = tolerances.CODED_SSIM_HDR if hdr else tolerances.CODED_SSIM
    if _has_other_tones(evidence) or (evidence.survey and is_covered(evidence.survey)):
        return FoundDetail("coded")  # likeness then tells nothing of coding
    if ssim < tolerances.RUINED_SSIM or _is_restless(evidence, ssim):
        half = detail.transfer >= tolerances.DETAIL_HALF
        return FoundDetail("weakened" if half else "generation-loss", 0.8)
    if ssim >= limit or detail.transfer >= tolerances.DETAIL_CODED:
        return FoundDetail("coded")
    lost = detail.transfer < tolerances.DETAIL_LOST
    return FoundDetail("generation-loss" if lost else "weakened", 0.8)


def _is_restless(evidence: Evidence, ssim: float) -> bool:
    """Return whether even places wander by more than healthy coding makes them, in a picture that
    is unlike the master's all over."""
    tone = evidence.survey.tone if evidence.survey else None
    codes, most = tolerances.RESTLESS
    return tone is not None and tone.noise >= codes and ssim < most


def _blurred_or_smaller(detail: DetailFindings, blur: DetailFit, smaller: DetailFit) -> FoundDetail:
    """Return which of both it was: by the cliff at a smaller raster's end, else by the fit."""
    steepness = detail.steepness
    if steepness is not None and steepness < tolerances.DETAIL_CLIFF:
        return FoundDetail("detail-below-raster", max(_sure(smaller, blur), 0.8), smaller)
    if smaller.residual < tolerances.DETAIL_CLOSER * blur.residual:
        return FoundDetail("detail-below-raster", _sure(smaller, blur), smaller)
    linear = smaller.kernel == LINEAR and smaller.residual * tolerances.DETAIL_ALIKE < (
        blur.residual
    )
    if linear and blur.values["sigma"] > tolerances.LINEAR_SIGMA:
        return FoundDetail("unclear")
    return FoundDetail("softened", _sure(blur, smaller), blur)
