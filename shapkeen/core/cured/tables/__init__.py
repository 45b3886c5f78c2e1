"""Look-up tables that take a measured drift of light and colour back."""

from .model import EXPORT, SIZES, SOURCE, USES, Beyond, ColourError, DriftTable, NoTable
from .table import table_for

__all__ = [
    "EXPORT",
    "SIZES",
    "SOURCE",
    "USES",
    "Beyond",
    "ColourError",
    "DriftTable",
    "NoTable",
    "table_for",
]
