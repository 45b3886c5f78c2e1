"""Detail: whether the finest structure came through. Which act took it, comes later."""

from .. import tolerances
from ..evidence import Evidence
from ..model import Judgement, Measure, kept, unproven


def judge_detail(evidence: Evidence, _trait: str) -> Judgement:
    """Judge detail between half and three quarters of the finest the raster holds."""
    transfer = evidence.survey.detail_transfer if evidence.survey else None
    if transfer is None:
        return unproven(
            "Detail is measured only where samples lie upon samples, and there is some."
        )
    measure = Measure(
        "detail that came through, ½ to ¾ of Nyquist",
        round(transfer, 3),
        "share",
        tolerances.DETAIL_TRANSFER,
    )
    if transfer >= tolerances.DETAIL_TRANSFER:
        return kept("Fine structure came through.", picture="as mastered", measure=measure)
    return unproven("Fine structure is weaker; why is not told yet.", measure=measure)
