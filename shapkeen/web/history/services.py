"""Adding to the history, and proving that nobody edited it."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from .models import Event

NOBODY = "Shapkeen"
"""Whose name stands where no person did it: what was measured and judged."""


@dataclass(frozen=True, slots=True)
class Place:
    """What an event is about. words: what it is called."""

    words: str = ""
    title_id: int | None = None
    delivery_id: int | None = None
    attempt_id: int | None = None


def record(
    act: str,
    place: Place,
    *,
    by: Any,
    before: Any = None,
    after: Any = None,
    remark: str = "",
) -> Event:
    """Add one event and return it. by: a person, a guest, or None where nobody did it.

    before, after: what JSON can hold; both None where nothing changed.
    """
    has_name = by is not None and by.is_authenticated
    event = Event(
        at=timezone.now(),
        by_id=by.pk if has_name else None,
        by_name=by.get_username() if has_name else NOBODY,
        act=act,
        before=before,
        after=after,
        remark=remark,
    )
    return append(event, place)


def append(event: Event, place: Place) -> Event:
    """Add an event as it is, about this place, and return it: one that an archive brought too."""
    event.title_id, event.subject = place.title_id, place.words[:400]
    event.delivery_id, event.attempt_id = place.delivery_id, place.attempt_id
    with transaction.atomic():  # immediate: two that write meet here, and the seals stay a chain
        last = Event.objects.order_by("-pk").values_list("seal", flat=True).first()
        event.seal = event.sealed_after(last or "")
        event.save(force_insert=True)
    return event


@dataclass(frozen=True, slots=True)
class Seals:
    """Whether the chain is whole. broken: the first row that does not fit, None where all do."""

    rows: int
    broken: Event | None


def check_seals() -> Seals:
    """Return whether every row still is what was written, in its order."""
    seal, rows = "", 0
    for event in Event.objects.order_by("pk").iterator():
        rows += 1
        if event.seal != event.sealed_after(seal):
            return Seals(rows, event)
        seal = event.seal
    return Seals(rows, None)
