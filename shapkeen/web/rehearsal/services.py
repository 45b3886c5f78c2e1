"""Asking for rehearsals and trials, and what headers alone tell of every service."""

from dataclasses import dataclass
from os import cpu_count

from django.db import transaction

from ...core.errors import UsageError
from ...core.rehearsed.received.facts import facts_of
from ...core.rehearsed.rehearsal import Arrival, arrive
from ...core.rehearsed.stand_in import StandIn, stand_in_to_json
from ...core.rehearsed.what_if import Question, estimate_s, question_object, variants_of
from ...core.reported.declared import declaration_from_object
from ..history.services import record
from ..library.models import Attempt, Viewer
from ..people.rights import account_of
from ..work import services as work
from . import stand_ins
from .models import Rehearsal, Trial

REHEARSE, TRY = "rehearse", "what-if"


@dataclass(frozen=True, slots=True)
class ServiceRow:
    """One service as the page of an attempt tells it. last: the newest rehearsal, if any."""

    arrival: Arrival
    last: Rehearsal | None

    @property
    def service(self) -> StandIn:
        """Return the stand-in."""
        return self.arrival.stand_in


def arrival_at(attempt: Attempt, stand_in: StandIn) -> Arrival:
    """Return what becomes of an attempt's file at a service's door, by its headers.

    A promise that the master cannot keep tells nothing: then the file is what it says of itself.
    """
    declared = declaration_from_object(attempt.reel.declaration)
    try:
        promise = attempt.delivery.effective_promise()
    except UsageError:
        promise = None
    return arrive(declared, stand_in, promise)


def rows_of(attempt: Attempt) -> list[ServiceRow]:
    """Return every service: the delivery's own first, then rehearsed ones, then what is taken."""
    newest: dict[str, Rehearsal] = {}
    for one in attempt.rehearsals.order_by("pk"):
        newest[one.key] = one
    rows = [ServiceRow(arrival_at(attempt, s), newest.get(s.key)) for s in stand_ins.current()]
    wanted = attempt.delivery.name.casefold()
    return sorted(
        rows,
        key=lambda row: (
            row.service.name.casefold() not in wanted,
            not row.last,
            not row.arrival.acceptance.accepted,
        ),
    )


@transaction.atomic
def ask(attempt: Attempt, key: str, *, whole: bool, by: Viewer) -> Rehearsal:
    """Have an attempt rehearsed; raises UsageError where no service has that key."""
    stand_in = stand_ins.find(key)
    if stand_in is None:
        raise UsageError("There is no such service any more.", code="unknown-service", where=key)
    size, changed = attempt.reel.state
    made = Rehearsal.objects.create(
        attempt=attempt,
        service=stand_in.name,
        key=stand_in.key,
        stand_in=stand_in_to_json(stand_in),
        whole=whole,
        promise_digest=attempt.delivery.promise_digest,
        size_bytes=size,
        changed_ns=changed,
        asked_by=account_of(by),
    )
    record("rehearsal asked for", attempt.place, by=by, after={"service": stand_in.name})
    work.start(REHEARSE, made.pk)
    return made


def raster_of(attempt: Attempt) -> tuple[int, int]:
    """Return the raster that ways of sending start from: the master's, else the export's."""
    files = attempt.delivery.title.master, attempt.reel
    rasters = (facts_of(declaration_from_object(file.declaration)).raster for file in files)
    return next((raster for raster in rasters if raster), (2, 2))


def is_hdr(attempt: Attempt) -> bool:
    """Return whether what is sent is HDR, as the master states it."""
    return facts_of(declaration_from_object(attempt.delivery.title.master.declaration)).is_hdr


def estimate(rehearsal: Rehearsal, question: Question) -> float:
    """Return about how many seconds a question takes; raises UsageError."""
    raster = raster_of(rehearsal.attempt)
    return estimate_s(question, raster, rehearsal.service_as_asked(), cores=cpu_count() or 1)


def ask_what_if(rehearsal: Rehearsal, question: Question) -> Trial:
    """Have ways of sending tried; raises UsageError where they cannot be."""
    variants_of(question, raster_of(rehearsal.attempt))
    size, changed = rehearsal.attempt.delivery.title.master.state
    asked = {
        "question": question_object(question),
        "master_size": size,
        "master_changed_ns": changed,
    }
    same = rehearsal.trials.filter(**asked).exclude(outcomes=[]).first()
    if same is not None:
        return same
    with transaction.atomic():
        made = Trial.objects.create(rehearsal=rehearsal, **asked)
        work.start(TRY, made.pk)
    return made
