"""Detail: whether the finest structure came through."""

from ...measured import DetailFindings
from ...promised import SHARPENED
from .. import tolerances
from ..evidence import Evidence
from ..fineness import FoundDetail, found_detail
from ..model import Measure, Ruling, bent, kept, lost, unproven

WHY = {
    "softened": "Fine structure is weaker, all of it alike: it was blurred or scaled softly.",
    "oversharpened": "Fine structure is stronger than the master's, and edges overshoot.",
    "detail-below-raster": "Fine structure ends where a smaller picture's would.",
    "upscale-nearest": "Samples are repeated: the picture is drawn in little squares.",
    "generation-loss": "Coding took most of the fine structure.",
    "unclear": "Fine structure is weaker; a blur and a smaller picture would both look like this.",
}


def judge_detail(evidence: Evidence, _trait: str) -> Ruling:
    """Judge detail between half and three quarters of the finest that the raster holds."""
    found = found_detail(evidence)
    detail = evidence.survey.detail if evidence.survey else None
    if found is not None and detail is None:
        return lost(WHY[found.act], picture="ruined")
    if found is None or detail is None:
        return _judge_without(evidence)
    measure = Measure(
        "fine structure that came through, ½ to ¾ of Nyquist",
        round(detail.transfer, 3),
        "share",
        tolerances.DETAIL_CODED,
    )
    if sharpening_promised(evidence) and found.act in ("kept", "coded", "oversharpened"):
        return _judge_sharpened(found, measure)
    if found.act in WHY:
        return lost(WHY[found.act], picture=_size_word(evidence, detail), measure=measure)
    if found.act == "odd":
        return unproven("Fine structure differs, and no act tells how.", measure=measure)
    if detail.is_enlarged:
        return _judge_enlarged(evidence, found, detail, measure)
    if found.act == "kept":
        return kept("Fine structure came through.", picture="as mastered", measure=measure)
    if found.act == "coded":
        text = "Coding took some of the finest structure, as it does in ordinary exports."
        return kept(text, picture="as mastered", measure=measure)
    return bent("Coding took much of the finest structure.", picture="weaker", measure=measure)


def _judge_without(evidence: Evidence) -> Ruling:
    """Judge where no structure was found: there was none to lose, if the pictures are alike."""
    survey = evidence.survey
    difference = survey.difference if survey else None
    if difference is not None and difference.ssim_mean >= tolerances.CODED_SSIM:
        return kept("The master has no fine structure to lose there.")
    return unproven("No fine structure is found again, or the two share too little.")


def sharpening_promised(evidence: Evidence) -> bool:
    """Return whether the picture was to be sharpened, for a service that softens."""
    return evidence.promise.value("detail") == SHARPENED


def _judge_sharpened(found: FoundDetail, measure: Measure) -> Ruling:
    if found.act == "oversharpened":
        text = "Fine structure is stronger than the master's, as promised."
        return kept(text, picture=SHARPENED, measure=measure)
    text = "Sharpening was promised, and fine structure is no stronger than the master's."
    return bent(text, picture="as mastered", measure=measure)


def _judge_enlarged(
    evidence: Evidence, found: FoundDetail, detail: DetailFindings, measure: Measure
) -> Ruling:
    kernel = found.fit.kernel if found.fit else "some"
    text = f"Enlarged {detail.scale[0]:.3f} times with a {kernel} kernel, as far as can be told."
    if enlargement_promised(evidence):
        return kept(text, picture="enlarged", measure=measure)
    return lost(
        f"{text} Nobody promised it.", picture=_size_word(evidence, detail), measure=measure
    )


def enlargement_promised(evidence: Evidence) -> bool:
    """Return whether the promise asks for more samples than the master has."""
    promised = evidence.promise.value("raster")
    survey = evidence.survey
    if survey is None or not isinstance(promised, tuple):
        return False
    return bool(promised[0] > survey.master_raster[0] or promised[1] > survey.master_raster[1])


def _size_word(evidence: Evidence, detail: DetailFindings) -> str | None:
    size = true_size(evidence, detail)
    return f"{size[0]}×{size[1]}" if size else None


def true_size(evidence: Evidence, detail: DetailFindings) -> tuple[int, int] | None:
    """Return the raster that would hold the structure there is, in samples.

    The master's where it was enlarged; else by the fitted smaller picture, or by how far structure
    reaches. None where that cannot be told.
    """
    survey = evidence.survey
    if survey is None:
        return None
    if detail.is_enlarged:
        return survey.master_raster
    width, height = survey.export_raster
    found = found_detail(evidence)
    if found is not None and found.act == "detail-below-raster" and found.fit:
        shares = found.fit.values["across"], found.fit.values["down"]
    else:
        reach = detail.across.effective, detail.down.effective
        if reach[0] is None or reach[1] is None:
            return None
        shares = reach[0], reach[1]
    return round(width * shares[0]), round(height * shares[1])
