"""From promise, declarations and survey to verdicts and causes."""

from .comparison import Comparison, compare_files, plan_reading, planned_readings, promised_coding
from .model import Cause, Measure, Survival, Verdict, overall_of
from .settings_check import SettingCheck, check_settings
from .survival import judge_survival

__all__ = [
    "Cause",
    "Comparison",
    "Measure",
    "SettingCheck",
    "Survival",
    "Verdict",
    "check_settings",
    "compare_files",
    "judge_survival",
    "overall_of",
    "plan_reading",
    "planned_readings",
    "promised_coding",
]
