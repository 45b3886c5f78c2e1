"""Asking for reports, and making them from what is known."""

import hashlib
import os
from typing import Any

from django.db import transaction

from ...core.errors import CoreError, UsageError
from ...core.reported.report import (
    Digests,
    Facts,
    HistoryLine,
    PicturePair,
    RemarkLine,
    Report,
    Stamp,
    TitleReport,
    WaivedFinding,
    report_of,
    telling_moment,
    written,
)
from ...core.reported.report.pictures import display_of, smaller
from ..bench.services import drawn_comparison_of, freshened
from ..history.models import Event
from ..history.services import record
from ..library.models import Attempt, Title, Viewer
from ..library.templatetags.shown import moved_words
from ..look import stills
from ..people.rights import account_of
from ..signoff import digests, remarks
from ..signoff import services as signoff
from ..work import services as work
from ..work.errors import StoppedError
from ..work.models import Job
from .models import KeptReport

WORK = "report"
MOST_EVENTS = 60
"""In a report; the history's page has all."""


@transaction.atomic
def ask(title: Title, attempt: Attempt | None, form: str, paper: str, *, by: Viewer) -> KeptReport:
    """Have a report made of an attempt, or (None) of all deliveries of a title."""
    made = KeptReport.objects.create(
        title=title, attempt=attempt, form=form, paper=paper, asked_by=account_of(by)
    )
    about = attempt or title
    record("report asked for", about.place, by=by, after={"form": form, "paper": paper})
    work.start(WORK, made.pk)
    return made


def find_report(user: Viewer, report_id: int) -> KeptReport | None:
    """Return a report as far as a user may see it."""
    return KeptReport.objects.visible_to(user).filter(pk=report_id).first()


def run_report(job: Job) -> None:
    """Make a report and keep its file. Raises CoreError and StoppedError."""
    kept = KeptReport.objects.filter(pk=job.subject_id).first()
    if kept is None:
        raise StoppedError
    attempts = _attempts(kept)
    reports = []
    for number, attempt in enumerate(attempts):
        if not job.report(number, len(attempts) + 1):
            raise StoppedError
        found = report_on(attempt, by=str(kept.asked_by or ""))
        if found is not None:
            reports.append(found)
    if not reports:
        raise UsageError(
            "Nothing of it was measured yet, so there is nothing to report. Measure it first.",
            code="nothing-measured",
            where=str(kept.attempt or kept.title),
        )
    left = len(attempts) - len(reports)
    told = f"{left} of its deliveries were not measured yet." if left else ""
    whole = TitleReport(_title(kept), tuple(reports), told)
    data = written(whole, kept.form, paper=kept.paper)
    _keep(kept, data, reports)


def _title(kept: KeptReport) -> str:
    return f"{kept.attempt or kept.title}"


def _attempts(kept: KeptReport) -> list[Attempt]:
    """Return what a report is of: one attempt, or the newest of each delivery of a title."""
    rows = Attempt.objects.with_context().filter(binned_at=None)
    if kept.attempt_id is not None:
        return list(rows.filter(pk=kept.attempt_id))
    newest: dict[int, Attempt] = {}
    present = rows.filter(delivery__title=kept.title_id, delivery__binned_at=None)
    for one in present.order_by("delivery__name", "number"):
        newest[one.delivery_id] = one
    return list(newest.values())


def _keep(kept: KeptReport, data: bytes, reports: list[Report]) -> None:
    kept.path.parent.mkdir(parents=True, exist_ok=True)
    part = kept.path.with_suffix(".part")
    with part.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
    part.replace(kept.path)
    kept.size_bytes, kept.sha256 = len(data), hashlib.sha256(data).hexdigest()
    kept.overall = reports[0].overall if len(reports) == 1 else ""
    kept.save(update_fields=["size_bytes", "sha256", "overall"])


def report_on(attempt: Attempt, *, by: str = "") -> Report | None:
    """Return the report of an attempt as it stands; None where it was not judged."""
    if freshened(attempt) is None:
        return None
    comparison = drawn_comparison_of(attempt)
    if comparison is None:
        return None
    facts = facts_of(attempt, comparison, by=by)
    return report_of(comparison, facts, pair=_pair(attempt, comparison))


def facts_of(attempt: Attempt, comparison: Any, *, by: str = "") -> Facts:
    """Return what the library knows of an attempt beside its files."""
    delivery = attempt.delivery
    master, export = digests.both(attempt)
    stands = signoff.standing_of(attempt, comparison)
    events = Event.objects.of_attempt(attempt.pk)[:MOST_EVENTS]
    return Facts(
        title=delivery.title.name,
        delivery=delivery.name,
        attempt=attempt.number,
        digests=Digests(master.sha256, export.sha256, delivery.promise_digest),
        stamp=_stamp(stands),
        waived=tuple(
            WaivedFinding(one.trait, one.verdict, one.reason, one.by_name, one.at)
            for one in attempt.waivers.filter(ended_at=None)
        ),
        remarks=tuple(_remark(one) for one in remarks.threads_of(attempt)),
        history=tuple(
            HistoryLine(one.at, one.by_name, _act(one), moved_words(one)) for one in events
        ),
        by=by,
    )


def _act(event: Event) -> str:
    return f"{event.act}: “{event.remark}”" if event.remark else event.act


def _stamp(stands: signoff.Standing) -> Stamp | None:
    signature = stands.signature
    if signature is None:
        return None
    return Stamp(
        decision=signature.decision,
        by=signature.by_name,
        at=signature.at,
        remark=signature.remark,
        moved=(*stands.moved, *stands.unsure),
    )


def _remark(thread: remarks.Thread) -> RemarkLine:
    one = thread.remark
    place = None if one.x is None or one.y is None else (100 * one.x, 100 * one.y)
    answers = tuple(f"{row.by_name}: {row.text}" for row in thread.answers)
    return RemarkLine(
        number=thread.number,
        timecode=thread.timecode,
        frame=one.frame,
        place=place,
        text=one.text,
        by=one.by_name,
        at=one.at,
        answers=answers,
        closed_by=one.closed_by,
    )


def _pair(attempt: Attempt, comparison: Any) -> PicturePair | None:
    """Return the pictures of the moment that shows most; None where files cannot be drawn."""
    moment = telling_moment(comparison)
    if moment is None:
        return None
    display, words = display_of(comparison)
    pngs = []
    try:
        for reel, frame in zip((attempt.delivery.title.master, attempt.reel), moment, strict=True):
            with stills.still(reel, frame, display) as file:
                pngs.append(smaller(file.read()))
    except CoreError:
        return None
    return PicturePair(pngs[0], pngs[1], *moment, words)


def forget_attempt(sender: object, attempt: Attempt, **_: Any) -> None:
    """Remove the reports of an attempt: it is deleted for good."""
    for one in attempt.reports.all():
        one.path.unlink(missing_ok=True)


def forget_title(sender: object, title: Title, **_: Any) -> None:
    """Remove the reports of a title: it is deleted for good."""
    for one in title.reports.all():
        one.path.unlink(missing_ok=True)
