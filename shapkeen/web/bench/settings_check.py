"""An attempt held against the settings sheet that its delivery keeps."""

from dataclasses import dataclass

from ...core.judged import Comparison, SettingCheck, check_settings
from ...core.judged.settings_check import AS_SET, OTHERWISE, SILENT
from ..library.models import Attempt


@dataclass(frozen=True, slots=True)
class SheetCheck:
    """What came back otherwise, and how many settings came back as set or cannot be told."""

    otherwise: tuple[SettingCheck, ...]
    as_set: int
    silent: tuple[SettingCheck, ...]


def check_sheet(attempt: Attempt, comparison: Comparison) -> SheetCheck | None:
    """Return the settings of the kept plan as they came back; None where no plan is kept."""
    kept = getattr(attempt.delivery, "kept_plan", None)
    if kept is None:
        return None
    lines = check_settings(
        kept.settings_sheet, comparison.export, comparison.master, comparison.survival
    )
    by = {state: tuple(x for x in lines if x.state == state) for state in (OTHERWISE, SILENT)}
    as_set = sum(line.state == AS_SET for line in lines)
    return SheetCheck(by[OTHERWISE], as_set, by[SILENT])
