"""What can be put right without coding again: corrected copies of files that say wrong things."""

from .by_causes import is_curable, wishes_of
from .cure import cure_file, has_copies, preview_copy
from .forecast import forecast
from .model import Change, Cured, Left, Proof
from .wishes import Wishes, checked, read_wishes

__all__ = [
    "Change",
    "Cured",
    "Left",
    "Proof",
    "Wishes",
    "checked",
    "cure_file",
    "forecast",
    "has_copies",
    "is_curable",
    "preview_copy",
    "read_wishes",
    "wishes_of",
]
