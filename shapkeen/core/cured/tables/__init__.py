"""Look-up tables that take a measured drift of light and colour back."""

from .effect import taken_back
from .model import EXPORT, SIZES, SOURCE, UNDONE, USES, Beyond, ColourError, DriftTable, NoTable
from .refusing import has_drifted
from .table import table_for

__all__ = [
    "EXPORT",
    "SIZES",
    "SOURCE",
    "UNDONE",
    "USES",
    "Beyond",
    "ColourError",
    "DriftTable",
    "NoTable",
    "has_drifted",
    "table_for",
    "taken_back",
]
