"""`shapkeen.survival/1`: what survived, as docs/contract.md has it."""

from dataclasses import asdict

from ..judged import Cause, Comparison


def _cause_object(cause: Cause) -> dict[str, object]:
    """Return a cause; without a confidence where none was measured."""
    made = asdict(cause)
    del made["strength"]
    if cause.confidence is None:
        del made["confidence"]
    return made


def survival_object(comparison: Comparison) -> dict[str, object]:
    """Return the object; cures and the frame that shows most are added to the contract's keys."""
    survival, survey = comparison.survival, comparison.survey
    return {
        "schema": "shapkeen.survival/1",
        "files": {"master": comparison.master.file.name, "export": comparison.export.file.name},
        "overall": survival.overall,
        "stage": survey.stage,
        "verdicts": [asdict(verdict) for verdict in survival.verdicts],
        "notes": [asdict(note) for note in survival.notes],
        "causes": [_cause_object(cause) for cause in survival.causes],
        "frames": {
            "compared": len(survey.pairs),
            "offset": survey.offset,
            "decoded": survey.decoded,
        },
        "seconds": {
            "read": round(comparison.read_s, 3),
            "measure": round(comparison.measure_s, 2),
        },
    }
