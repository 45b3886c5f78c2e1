"""The four forms of a report."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from ...errors import UsageError
from .model import Report
from .objects import report_csv, report_object

FORMS: Final = ("html", "pdf", "json", "csv")
PAPERS: Final = ("A4", "Letter")


@dataclass(frozen=True, slots=True)
class TitleReport:
    """What a report is of: one export, or all deliveries of a title. told: a last line."""

    title: str
    reports: tuple[Report, ...]
    told: str = ""


def written(report: TitleReport, form: str, *, paper: str = "A4") -> bytes:
    """Return a report in a form of FORMS. paper: for PDF.

    Raises UsageError for another form or paper, or where PDF cannot be made.
    """
    if form not in FORMS or paper not in PAPERS:
        raise UsageError(
            f"A report is {', '.join(FORMS)}, on {' or '.join(PAPERS)}; not {form} on {paper}.",
            code="unknown-form",
            where="--out",
        )
    named = {"title": report.title, "told": report.told}
    if form == "html":
        from .html import report_html

        return report_html(report.reports, **named).encode()
    if form == "pdf":
        from .pdf import report_pdf

        return report_pdf(report.reports, paper=paper, **named)
    if form == "csv":
        return report_csv(report.reports).encode("utf-8-sig")
    return _json(report.title, report.reports)


def _json(title: str, reports: Sequence[Report]) -> bytes:
    objects = [report_object(one) for one in reports]
    made = objects[0] if len(objects) == 1 else _several(title, objects)
    return json.dumps(made, ensure_ascii=False, indent=1).encode()


def _several(title: str, objects: list[dict[str, object]]) -> dict[str, object]:
    return {"schema": "shapkeen.reports/1", "title": title, "reports": objects}
