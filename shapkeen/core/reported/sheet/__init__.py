"""What the file says: every part and field with what it does to the picture."""

from .model import FileSheet, SheetField, SheetPart, TraitLine
from .record import outline_from_object, outline_object
from .sheet import file_sheet

__all__ = [
    "FileSheet",
    "SheetField",
    "SheetPart",
    "TraitLine",
    "file_sheet",
    "outline_from_object",
    "outline_object",
]
