"""What happened, as far as a person may see it."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from ..history.models import Event
from ..library.models import Attempt, Title
from ..people.rights import titles_of
from ..work.models import Job
from ..work.services import subjects_of
from .models import Seen

MOST, MOST_TOLD = 60, 20
"""On the page, and to pages that ask again and again."""
QUIET = frozenset({"digest", "stills"})
"""Kinds of work that nobody asked for and nobody waits for."""
TOLD = frozenset(
    {
        *("export added", "promise changed", "master replaced", "finding waived"),
        *("remark", "remark answered", "signed", "refused", "moved"),
    }
)
"""Acts of others that concern whoever works on a title."""


@dataclass(frozen=True, slots=True)
class Notice:
    """One thing that happened. verdict: of a survey that ended; failed: whether work did not.

    of: what it is about, in words; address: where that is, empty where it is gone.
    """

    at: datetime
    words: str
    of: str
    address: str
    verdict: str = ""
    failed: bool = False
    who: str = ""


def seen_until(user: Any) -> datetime:
    """Return until when somebody looked; from their first visit on, all is news."""
    row, _ = Seen.objects.get_or_create(user=user, defaults={"until": timezone.now()})
    return row.until


def mark_seen(user: Any, until: datetime) -> None:
    """Keep that somebody looked."""
    Seen.objects.update_or_create(user=user, defaults={"until": until})


def notices(user: Any, since: datetime | None = None, *, most: int = MOST) -> list[Notice]:
    """Return what happened, the latest first, `most` at most. since: only what came after."""
    found = [*_ended(user, since, most), *_done_by_others(user, since, most)]
    return sorted(found, key=lambda one: one.at, reverse=True)[:most]


def _ended(user: Any, since: datetime | None, most: int) -> Iterator[Notice]:
    jobs = Job.objects.filter(state__in=(Job.State.DONE, Job.State.FAILED)).exclude(kind__in=QUIET)
    if since is not None:
        jobs = jobs.filter(ended_at__gt=since)
    shown = list(jobs.exclude(ended_at=None).order_by("-ended_at")[:most])
    subjects = subjects_of(user, shown)
    for job in shown:
        subject = subjects.get(job.pk)
        if subject is None or job.ended_at is None:
            continue
        failed = job.state == Job.State.FAILED
        judged = subject.judged if isinstance(subject, Attempt) else None
        verdict = judged.overall if judged and not failed and job.kind == Attempt.WORK else ""
        words = job.definition.failed if failed else verdict or f"{job.definition.title}: done"
        yield Notice(
            at=job.ended_at,
            words=words,
            of=str(subject),
            address=subject.get_absolute_url(),
            verdict=verdict,
            failed=failed,
        )


def _done_by_others(user: Any, since: datetime | None, most: int) -> Iterator[Notice]:
    events = Event.objects.filter(act__in=TOLD).exclude(by_id=user.pk)
    titles = titles_of(user)
    if titles is not None:
        events = events.filter(title_id__in=titles)
    if since is not None:
        events = events.filter(at__gt=since)
    shown = list(events[:most])
    addresses = _addresses(user, shown)
    for event in shown:
        told = f"{event.act}: “{event.remark}”" if event.remark else event.act
        yield Notice(
            at=event.at,
            words=told,
            of=event.subject,
            address=addresses.get(event.pk, ""),
            who=event.by_name,
        )


def _addresses(user: Any, events: Iterable[Event]) -> dict[int, str]:
    """Return event → where that is which it is about, of what is there and may be seen."""
    titles = Title.objects.visible_to(user).in_bulk([one.title_id or 0 for one in events])
    asked = [one.attempt_id for one in events if one.attempt_id]
    attempts = Attempt.objects.filter(binned_at=None).only("pk").in_bulk(asked)
    found = {}
    for event in events:
        about = attempts.get(event.attempt_id) if event.attempt_id else titles.get(event.title_id)
        if about is not None and event.title_id in titles:
            found[event.pk] = about.get_absolute_url()
    return found
