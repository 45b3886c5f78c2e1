"""`shapkeen.report/1` as JSON, and the report's figures as CSV."""

import csv
import io
from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

from ..csv_text import harmless
from .model import Report, TraitLines

HEAD = (
    "title", "delivery", "attempt", "trait", "family", "verdict", "promised", "found",
    "figure", "value", "unit", "limit", "limit from", "cause", "waived because",
)  # fmt: skip


def report_object(report: Report) -> dict[str, Any]:
    """Return the object: the survival object with what a library knows round it; no pictures."""
    facts = report.facts
    return {
        "schema": "shapkeen.report/1",
        "title": facts.title,
        "delivery": facts.delivery,
        "attempt": facts.attempt,
        "made_at": _time(facts.made_at),
        "overall": report.overall,
        "files": [asdict(one) for one in report.files],
        "promise_sha256": facts.digests.promise or None,
        "signature": _plain(asdict(facts.stamp)) if facts.stamp else None,
        "survival": _plain(report.survival),
        "figures": [
            {"trait": row.name, **asdict(row.figure)} for row in report.traits if row.figure
        ],
        "waivers": [_plain(asdict(one)) for one in facts.waived],
        "remarks": [_plain(asdict(one)) for one in facts.remarks],
        "unmeasured": [{"what": what, "why": why} for what, why in report.unmeasured],
        "history": [_plain(asdict(one)) for one in facts.history],
        "moment": _moment(report),
    }


def _moment(report: Report) -> dict[str, Any] | None:
    if report.pair is None:
        return None
    pair = report.pair
    return {
        "master_frame": pair.master_frame,
        "export_frame": pair.export_frame,
        "display": pair.display,
    }


def report_csv(reports: Sequence[Report]) -> str:
    """Return every trait of every report as CSV (RFC 4180), a row each."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(HEAD)
    for report in reports:
        for row in report.traits:
            rows.writerow([harmless(cell) for cell in _cells(report, row)])
    return out.getvalue()


def _cells(report: Report, row: TraitLines) -> list[str]:
    facts, figure = report.facts, row.figure
    told = [figure.name, figure.value, figure.unit, figure.limit, figure.source] if figure else []
    attempt = "" if facts.attempt is None else str(facts.attempt)
    return [
        *(facts.title, facts.delivery, attempt, row.title, row.family, row.verdict),
        *(row.promised, row.why),
        *(told or [""] * 5),
        *(row.cause, row.waiver.reason if row.waiver else ""),
    ]


def _time(value: datetime | None) -> str | None:
    return value.isoformat(timespec="seconds") if value else None


def _plain(value: Any) -> Any:
    """Return a value with times as ISO 8601."""
    if isinstance(value, dict):
        return {key: _plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    return _time(value) if isinstance(value, datetime) else value
