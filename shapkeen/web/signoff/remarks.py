"""Remarks in the picture: said, answered, closed, and written as CSV with timecode."""

import csv
import io
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from ...core.judged.evidence import clock_of
from ...core.reported.csv_text import harmless
from ...core.reported.declared import declaration_from_object
from ..history.services import record
from ..library.models import Attempt
from ..people.rights import Viewer, account_of
from .models import Remark
from .services import link_of


@dataclass(frozen=True, slots=True)
class Thread:
    """One remark with its number on the picture, its timecode, and what was answered."""

    number: int
    remark: Remark
    timecode: str
    answers: list[Remark]


@transaction.atomic
def say(
    attempt: Attempt, text: str, *, frame: int, place: tuple[float, float] | None, by: Viewer
) -> Remark:
    """Say something of a frame, at a place or of the whole picture."""
    made = Remark.objects.create(
        attempt=attempt,
        frame=frame,
        x=place[0] if place else None,
        y=place[1] if place else None,
        text=text,
        by=account_of(by),
        by_name=by.get_username(),
        link_id=link_of(by),
    )
    record("remark", attempt.place, by=by, after={"frame": frame}, remark=text)
    return made


@transaction.atomic
def answer(remark: Remark, text: str, *, by: Viewer) -> Remark:
    """Answer a remark; an answer to an answer is one to the remark."""
    first = remark.answers or remark
    made = Remark.objects.create(
        attempt=first.attempt,
        answers=first,
        frame=first.frame,
        text=text,
        by=account_of(by),
        by_name=by.get_username(),
        link_id=link_of(by),
    )
    after = {"frame": first.frame, "to": first.text[:80]}
    record("remark answered", first.attempt.place, by=by, after=after, remark=text)
    return made


@transaction.atomic
def close(remark: Remark, *, by: Viewer, closed: bool) -> None:
    """Close a remark, or open it again."""
    remark.closed_at = timezone.now() if closed else None
    remark.closed_by = by.get_username() if closed else ""
    remark.save(update_fields=["closed_at", "closed_by"])
    act = "remark closed" if closed else "remark opened again"
    record(act, remark.attempt.place, by=by, after={"frame": remark.frame}, remark=remark.text)


def threads_of(attempt: Attempt) -> list[Thread]:
    """Return an attempt's remarks by frame, numbered, with their answers."""
    clock = clock_of(declaration_from_object(attempt.reel.declaration))
    rows = list(attempt.remarks.all())
    first = [one for one in rows if one.answers_id is None]
    return [
        Thread(
            number,
            one,
            clock.at(one.frame),
            [row for row in rows if row.answers_id == one.pk],
        )
        for number, one in enumerate(first, 1)
    ]


HEAD = (
    "number", "timecode", "frame", "x", "y", "said by", "at (UTC)", "text", "answers", "closed by",
)  # fmt: skip


def remarks_csv(attempt: Attempt) -> str:
    """Return all remarks as CSV (RFC 4180), a row each. x, y: in per cent of the picture."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(HEAD)
    for one in threads_of(attempt):
        remark = one.remark
        answers = " / ".join(f"{row.by_name}: {row.text}" for row in one.answers)
        place = [f"{100 * v:.1f}" if v is not None else "" for v in (remark.x, remark.y)]
        at = f"{remark.at:%Y-%m-%d %H:%M:%S}"
        told = [remark.by_name, at, remark.text, answers, remark.closed_by]
        rows.writerow([one.number, one.timecode, remark.frame, *place, *map(harmless, told)])
    return out.getvalue()
