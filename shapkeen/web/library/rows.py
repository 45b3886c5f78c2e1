"""Lists of titles and deliveries as plain values: all that a list shows of them, and nothing else.

What is drawn of a row depends on its values alone, so what was drawn of equal ones is kept
(templatetags/listed.py): a list of fifty deliveries costs what changed in it.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ..work.models import Job
from .finding import VERDICTS
from .models import Attempt, Delivery, Title

Held = tuple[Delivery, list[Attempt]]
"""A delivery with its attempts, in their order."""


@dataclass(frozen=True, slots=True)
class AttemptMark:
    """An attempt in its delivery's row. verdict: empty before any; state: of its work then."""

    pk: int
    number: int
    verdict: str
    state: str


@dataclass(frozen=True, slots=True)
class Latest:
    """A delivery's newest attempt. percent: None unless it is being measured.

    signed: what was decided at sign-off, empty before; moved: whether it is another file or
    promise since. stale: why its verdict is out of date.
    """

    pk: int
    verdict: str
    broken: tuple[str, ...]
    stale: tuple[str, ...]
    signed: str
    moved: bool
    state: str
    percent: int | None


@dataclass(frozen=True, slots=True)
class DeliveryRow:
    """A delivery in a list. has_plan: whether it keeps one; choosable: whether it has a tick."""

    pk: int
    name: str
    has_plan: bool
    choosable: bool
    marks: tuple[AttemptMark, ...]
    latest: Latest | None


@dataclass(frozen=True, slots=True)
class TitleSection:
    """A title on the Shelf. quote: of a remark that was looked for; may_add: exports to it."""

    pk: int
    name: str
    note: str
    quote: str
    may_add: bool
    rows: tuple[DeliveryRow, ...]

    @property
    def verdicts(self) -> list[tuple[str, int]]:
        """Return the newest verdicts, the worst first, each with how many there are."""
        newest = [row.latest.verdict for row in self.rows if row.latest]
        return [(word, newest.count(word)) for word in VERDICTS if word in newest]

    @property
    def running(self) -> int:
        """Return how many newest attempts have no verdict yet."""
        return sum(row.latest is not None and not row.latest.verdict for row in self.rows)

    @property
    def is_open(self) -> bool:
        """Return whether something is to be seen there: a loss, work under way, no export yet."""
        return self.verdicts != [("kept", len(self.rows))]


def held(deliveries: Iterable[Delivery]) -> list[Held]:
    """Return listed deliveries (DeliveryQuerySet.listed) with their attempts."""
    return [(one, one.listed_attempts) for one in deliveries]  # type: ignore[attr-defined]


def unjudged(held: Iterable[Held]) -> list[int]:
    """Return the numbers of the attempts that have no judgement yet."""
    return [one.pk for _, attempts in held for one in attempts if one.judged is None]


def delivery_rows(
    held: Iterable[Held], jobs: Mapping[int, Job], *, choosable: bool = False
) -> tuple[DeliveryRow, ...]:
    """Return a row of each delivery. jobs: attempt → its latest work."""
    return tuple(
        DeliveryRow(
            pk=delivery.pk,
            name=delivery.name,
            has_plan=hasattr(delivery, "kept_plan"),
            choosable=choosable and bool(attempts),
            marks=tuple(_mark(one, jobs.get(one.pk)) for one in attempts),
            latest=_latest(attempts[-1], jobs.get(attempts[-1].pk)) if attempts else None,
        )
        for delivery, attempts in held
    )


def _mark(attempt: Attempt, job: Job | None) -> AttemptMark:
    verdict = attempt.judged.overall if attempt.judged else ""
    return AttemptMark(attempt.pk, attempt.number, verdict, _state(job))


def _state(job: Job | None) -> str:
    return str(job.state) if job else "not measured"


def _latest(attempt: Attempt, job: Job | None) -> Latest:
    judged: Any = attempt.judged
    signed: list[Any] = attempt.listed_signatures if judged else []  # type: ignore[attr-defined]
    signature = signed[0] if signed else None
    measured = job is not None and job.state == Job.State.RUNNING and job.total
    return Latest(
        pk=attempt.pk,
        verdict=judged.overall if judged else "",
        broken=tuple(judged.broken) if judged else (),
        stale=tuple(attempt.out_of_date),
        signed=signature.decision if signature else "",
        moved=signature is not None and signature.seems_moved(attempt),
        state=_state(job),
        percent=job.percent if job and measured else None,
    )


def title_sections(
    listed: Iterable[tuple[Title, list[Held]]],
    jobs: Mapping[int, Job],
    said: Mapping[int, str],
    *,
    may_add: bool,
) -> list[TitleSection]:
    """Return titles as the Shelf shows them. said: title → words of a remark looked for."""
    return [
        TitleSection(
            pk=title.pk,
            name=title.name,
            note=title.note,
            quote=said.get(title.pk, ""),
            may_add=may_add,
            rows=delivery_rows(held, jobs, choosable=True),
        )
        for title, held in listed
    ]
