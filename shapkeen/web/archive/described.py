"""A title in words that another library can be restored from."""

from collections.abc import Callable
from typing import Any

from django.db import models

from ..history.models import Event
from ..library.models import Attempt, Delivery, Reel, Title
from ..signoff.digests import known
from ..signoff.models import Remark, Signature, Waiver

Plain = Callable[[str], str]


def described_title(title: Title, plain: Plain, there: set[str]) -> dict[str, Any]:
    """Return a title with all that is known of it. there: paths of the media that are archived."""
    home = plain(title.name)
    return {
        "name": title.name,
        "note": title.note,
        "answers_text": title.answers_text,
        "promise_text": title.promise_text,
        "master": _file(title.master, f"{home}/master", plain, there),
        "recipes": [
            {"name": one.name, "version": one.version, "place": one.place, "text": one.text}
            for one in title.recipes.all()
        ],
        "deliveries": [
            _delivery(one, f"{home}/{plain(one.name)}", plain, there)
            for one in title.deliveries.filter(binned_at=None).select_related("title__master")
        ],
        "history": [_event(one) for one in Event.objects.of_title(title.pk).order_by("pk")],
    }


def _file(reel: Reel, folder: str, plain: Plain, there: set[str]) -> dict[str, Any]:
    path = f"{folder}/{plain(reel.name)}"
    return {
        "name": reel.name,
        "path": path if path in there else None,
        "size_bytes": reel.size_bytes,
        "sha256": known(reel).sha256 or None,
        "declaration": reel.declaration,
    }


def _delivery(delivery: Delivery, folder: str, plain: Plain, there: set[str]) -> dict[str, Any]:
    plan = getattr(delivery, "kept_plan", None)
    return {
        "name": delivery.name,
        "promise_text": delivery.promise_text,
        "promise_digest": delivery.promise_digest,
        "plan": None if plan is None else _columns(plan, "specification", "fields", "sheet"),
        "attempts": [
            _attempt(one, f"{folder}/{one.number:03}", plain, there)
            for one in delivery.attempts.filter(binned_at=None).select_related("reel")
        ],
    }


SIGNED = (
    *("decision", "remark", "by_name", "master_name", "master_sha256", "export_name"),
    *("export_sha256", "promise_digest", "bound", "bound_digest", "waived"),
)
WAIVED = ("trait", "verdict", "reason", "by_name")
SAID = ("frame", "x", "y", "text", "by_name", "closed_by")


def _attempt(attempt: Attempt, folder: str, plain: Plain, there: set[str]) -> dict[str, Any]:
    judged = attempt.judged
    return {
        "number": attempt.number,
        "file": _file(attempt.reel, folder, plain, there),
        "overall": judged.overall if judged else None,
        "broken": judged.broken if judged else [],
        "signatures": [
            {**_columns(one, *SIGNED), "at": _time(one.at)}
            for one in Signature.objects.filter(attempt=attempt).order_by("pk")
        ],
        "waivers": [
            {**_columns(one, *WAIVED), "at": _time(one.at), "ended_at": _time(one.ended_at)}
            for one in Waiver.objects.filter(attempt=attempt)
        ],
        "remarks": [
            {
                **_columns(one, *SAID),
                "number": one.pk,
                "answers": one.answers_id,
                "at": _time(one.at),
                "closed_at": _time(one.closed_at),
            }
            for one in Remark.objects.filter(attempt=attempt).order_by("pk")
        ],
    }


def _event(event: Event) -> dict[str, Any]:
    told = _columns(event, "by_name", "act", "subject", "before", "after", "remark")
    return {**told, "at": _time(event.at), "attempt": event.attempt_id is not None}


def _columns(row: models.Model, *names: str) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}


def _time(value: Any) -> str | None:
    return value.isoformat() if value else None
