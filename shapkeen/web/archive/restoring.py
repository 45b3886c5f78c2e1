"""Restoring titles from an archive's bag: verified first, then copied, then entered."""

import json
from datetime import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from ...core.archived import check_bag
from ...core.errors import UsageError
from ..bench.services import measure
from ..history.models import Event
from ..history.services import Place, append, record
from ..library.models import Attempt, Delivery, Reel, Title
from ..library.services import read_file
from ..library.uploads import copy_in
from ..plan.models import KeptPlan
from ..signoff.models import Remark, Signature, Waiver
from ..versions.models import KeptRecipe
from .collecting import LIBRARY

SCHEMA = "shapkeen.archive/1"


def restore_bag(folder: Path, *, told: Any = lambda *_: None) -> list[Title]:
    """Return the titles that were restored from a bag; each export is measured anew.

    Raises UsageError where the bag is not whole, is none of ours, or a title of that name is here.
    What a file of it could not be read or copied for leaves nothing behind.
    """
    checked = check_bag(folder, told=told)
    if not checked.is_whole:
        one = checked.problems[0]
        raise UsageError(
            f"The archive is not what was written, so nothing was restored. {one.path}: {one.text}",
            code="not-whole",
            where=folder.name,
        )
    library = _library(folder)
    taken = [one["name"] for one in library["titles"] if _is_here(one["name"])]
    if taken:
        raise UsageError(
            f"Here already: {', '.join(taken)}. Rename that, then restore.",
            code="taken",
            where=folder.name,
        )
    return [_restored(folder, one) for one in library["titles"]]


def _is_here(name: str) -> bool:
    return Title.objects.filter(name=name, binned_at=None).exists()


def _library(folder: Path) -> dict[str, Any]:
    try:
        found: dict[str, Any] = json.loads((folder / "data" / LIBRARY).read_text())
    except (OSError, ValueError):
        found = {}
    if found.get("schema") != SCHEMA:
        raise UsageError(
            f"{folder.name} is a bag, but none that titles can be restored from.",
            code="no-library",
            where=LIBRARY,
        )
    return found


def _restored(folder: Path, told: dict[str, Any]) -> Title:
    """Return one title restored. Its files first; where one fails, what was copied goes again."""
    copied: dict[str, str] = {}
    try:
        for path in _paths(told):
            copied[path] = copy_in(folder / "data" / path)
        with transaction.atomic():
            title = _entered(told, copied)
    except BaseException:
        for name in copied.values():
            (settings.CONF.upload_dir / name).unlink(missing_ok=True)
        raise
    for attempt in Attempt.objects.filter(delivery__title=title):
        measure(attempt)
    return title


def _paths(told: dict[str, Any]) -> list[str]:
    """Return the media of a title: its master's path, and those of its exports."""
    master = told["master"]["path"]
    if master is None:
        raise UsageError(
            f"{told['name']} was archived without its master; nothing can be held against it. "
            "Bring the master in as a new title, then its exports.",
            code="no-master",
            where=told["name"],
        )
    attempts = [one for delivery in told["deliveries"] for one in delivery["attempts"]]
    return [master, *(one["file"]["path"] for one in attempts if one["file"]["path"])]


def _entered(told: dict[str, Any], copied: dict[str, str]) -> Title:
    """Return the title with all that belongs to it, as rows."""
    title = Title.objects.create(
        name=told["name"],
        note=told["note"],
        answers_text=told["answers_text"],
        answers_at=timezone.now() if told["answers_text"] else None,
        promise_text=told.get("promise_text", ""),  # older archives have none
        promise_at=timezone.now() if told.get("promise_text") else None,
        master=_reel(copied[told["master"]["path"]]),
    )
    for one in told["recipes"]:
        KeptRecipe.objects.create(title=title, **one)
    attempts: dict[str, Attempt] = {}
    for one in told["deliveries"]:
        delivery = _delivery(title, one)
        for row in one["attempts"]:
            if row["file"]["path"]:
                attempt = _attempt(delivery, row, copied)
                attempts[str(attempt)] = attempt
    for event in told["history"]:
        _event(title, attempts, event)
    record("restored from an archive", title.place, by=None)
    return title


def _reel(name: str) -> Reel:
    return read_file("uploads", name).keep(None)


def _delivery(title: Title, told: dict[str, Any]) -> Delivery:
    made = Delivery(title=title, name=told["name"])
    made.save()
    made.set_promise(told["promise_text"], by=None, at=timezone.now())
    if told["plan"]:
        KeptPlan.objects.create(delivery=made, **told["plan"])
    return made


def _attempt(delivery: Delivery, told: dict[str, Any], copied: dict[str, str]) -> Attempt:
    made = Attempt.objects.create(
        delivery=delivery, number=told["number"], reel=_reel(copied[told["file"]["path"]])
    )
    states = {
        "master_state": list(delivery.title.master.state),
        "export_state": list(made.reel.state),
    }
    for one in told["signatures"]:
        at = one.pop("at")
        row = Signature.objects.create(attempt=made, **one, **states)
        Signature.objects.filter(pk=row.pk).update(at=_time(at))
    for one in told["waivers"]:
        at, ended = one.pop("at"), one.pop("ended_at")
        waiver = Waiver.objects.create(attempt=made, **one, ended_at=_time(ended))
        Waiver.objects.filter(pk=waiver.pk).update(at=_time(at))
    _remarks(made, told["remarks"])
    return made


def _remarks(attempt: Attempt, told: list[dict[str, Any]]) -> None:
    numbers: dict[int, int] = {}
    for one in told:
        at, closed, number = one.pop("at"), one.pop("closed_at"), one.pop("number")
        answers = numbers.get(one.pop("answers"))
        row = Remark.objects.create(
            attempt=attempt, answers_id=answers, closed_at=_time(closed), **one
        )
        Remark.objects.filter(pk=row.pk).update(at=_time(at))
        numbers[number] = row.pk


def _event(title: Title, attempts: dict[str, Attempt], told: dict[str, Any]) -> None:
    attempt = attempts.get(told["subject"])
    place = Place(
        told["subject"],
        title.pk,
        attempt.delivery_id if attempt else None,
        attempt.pk if attempt else None,
    )
    at = _time(told["at"])
    if at is not None:
        told = {key: told[key] for key in ("by_name", "act", "before", "after", "remark")}
        append(Event(at=at, by_id=None, **told), place)


def _time(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None
