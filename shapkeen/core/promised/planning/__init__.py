"""Planning a delivery before it is exported: geometry, carrier, weight, warnings, settings.

subject → choices → layout → plan → warnings, settings sheet and promise.
"""

from .choices import Choices, Shot
from .choosing import choices_from, first_choices
from .layout import Layout, layout_of, sizes_of
from .plan import Plan, make_plan
from .promising import promise_of_plan
from .sheet import Setting, Sheet, sheet_from_object, sheet_of, sheet_to_object
from .subject import Subject, subject_of
from .warning import PlanWarning
from .warnings import warnings_of

__all__ = [
    "Choices",
    "Layout",
    "Plan",
    "PlanWarning",
    "Setting",
    "Sheet",
    "Shot",
    "Subject",
    "choices_from",
    "first_choices",
    "layout_of",
    "make_plan",
    "promise_of_plan",
    "sheet_from_object",
    "sheet_of",
    "sheet_to_object",
    "sizes_of",
    "subject_of",
    "warnings_of",
]
