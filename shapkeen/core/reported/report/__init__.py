"""The report: one object of all that is known of an export, and its four forms to hand on."""

from .build import report_of, telling_moment
from .model import (
    Digests,
    Facts,
    HistoryLine,
    PicturePair,
    RemarkLine,
    Report,
    Stamp,
    WaivedFinding,
)
from .writing import FORMS, PAPERS, TitleReport, written

__all__ = [
    "FORMS",
    "PAPERS",
    "Digests",
    "Facts",
    "HistoryLine",
    "PicturePair",
    "RemarkLine",
    "Report",
    "Stamp",
    "TitleReport",
    "WaivedFinding",
    "report_of",
    "telling_moment",
    "written",
]
