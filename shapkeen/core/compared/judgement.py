"""Judging a survey that was kept: no file is touched, so a changed promise is judged at once."""

from ..declared import Declaration
from ..judged import Comparison, judge_survival, whole_promise
from ..judged.evidence import Evidence
from ..measured import PairSurvey
from ..promised import Promise, promise_from_master


def judge_survey(
    master: Declaration,
    export: Declaration,
    survey: PairSurvey,
    *,
    overrides: Promise | None = None,
    read_s: float = 0.0,
) -> Comparison:
    """Return what survived, by a survey and a promise.

    overrides: an explicit promise; what it leaves out falls back to the master's. Raises UsageError
    where it cannot be kept by this master.
    """
    asked = promise_from_master(master, overrides=overrides)
    promise = whole_promise(Evidence(asked, master, export, survey))
    return Comparison(
        master=master,
        export=export,
        promise=promise,
        survey=survey,
        survival=judge_survival(Evidence(promise, master, export, survey)),
        read_s=read_s,
        measure_s=survey.seconds,
    )
