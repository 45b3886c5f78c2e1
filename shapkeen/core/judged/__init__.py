"""From promise, declarations and survey to verdicts and causes. Pure: no file is opened here."""

from .equivalence import equivalent_display
from .model import Cause, Comparison, Measure, States, Survival, Verdict, overall_of
from .readings import PairReading, plan_reading, planned_readings, promised_coding, read_pair_by
from .settings_check import SettingCheck, check_settings
from .survival import judge_survival, whole_promise

__all__ = [
    "Cause",
    "Comparison",
    "Measure",
    "PairReading",
    "SettingCheck",
    "States",
    "Survival",
    "Verdict",
    "check_settings",
    "equivalent_display",
    "judge_survival",
    "overall_of",
    "plan_reading",
    "planned_readings",
    "promised_coding",
    "read_pair_by",
    "whole_promise",
]
