"""Which hooks are told what: calls are written beside what happened, in one transaction."""

import base64
import json
import secrets
from typing import Any, Final

from django.db import transaction
from django.utils import timezone

from ..history.models import Event
from ..history.services import Place, record
from ..library.models import Attempt, Viewer
from ..people.rights import account_of
from ..work.models import Job
from .models import Call, Hook

TOLD: Final = {
    "export added": "an export came in",
    "judged": "an export was judged",
    "signed": "an attempt was signed",
    "refused": "an attempt was refused",
    "remark": "somebody wrote a remark",
    "promise changed": "a promise changed",
    "master replaced": "a master was replaced",
    "finding waived": "a finding was waived",
    "archive written": "an archive was written",
    "work failed": "work failed",
}
"""Acts of the history that hooks are told of, and failures; in words for pages."""
SECRET_BYTES = 24


def kind_of(act: str) -> str:
    """Return an event's kind as calls name it: the act, its words joined."""
    return act.replace(" ", "-")


@transaction.atomic
def make(name: str, address: str, acts: list[str], *, by: Viewer) -> Hook:
    """Keep a new hook and return it with its secret, which pages show once."""
    secret = base64.b64encode(secrets.token_bytes(SECRET_BYTES)).decode()
    kinds = [kind_of(act) for act in TOLD if act in acts]
    made = Hook.objects.create(
        name=name, address=address, secret=f"whsec_{secret}", kinds=kinds, made_by=account_of(by)
    )
    record("webhook made", Place(f"webhook {name}"), by=by, after={"address": address})
    return made


@transaction.atomic
def remove(hook: Hook, *, by: Viewer) -> None:
    """Forget a hook with all its calls."""
    record("webhook removed", Place(f"webhook {hook}"), by=by, before={"address": hook.address})
    hook.delete()


@transaction.atomic
def turn(hook: Hook, why: str, *, by: Viewer) -> None:
    """Tell a hook nothing more (why), or (empty) all again; what waited is sent then."""
    hook.off_why = why
    hook.save(update_fields=["off_why"])
    act = "webhook stopped" if why else "webhook told again"
    record(act, Place(f"webhook {hook}"), by=by)


def tell_event(event: Event) -> None:
    """Have hooks told of an event of the history, where it is one that they are told of."""
    if event.act in TOLD:
        _tell(event.act, {"event_id": event.pk, **_event(event)})


def _event(event: Event) -> dict[str, Any]:
    places = ("title_id", "delivery_id", "attempt_id")
    told: dict[str, Any] = {name: getattr(event, name) for name in places}
    return {
        **told,
        "subject": event.subject,
        "by": event.by_name,
        "remark": event.remark,
        "before": event.before,
        "after": event.after,
    }


def tell_failure(sender: Any, job: Job, **_: Any) -> None:
    """Have hooks told of work that failed."""
    told: dict[str, Any] = {"job_id": job.pk, "work": job.kind, "error": job.error}
    if job.kind == Attempt.WORK:
        found = Attempt.objects.filter(pk=job.subject_id).select_related("delivery__title").first()
        if found is not None:
            place = found.place
            told |= {"title_id": place.title_id, "delivery_id": place.delivery_id}
            told |= {"attempt_id": place.attempt_id, "subject": place.words}
    _tell("work failed", told)


def _tell(act: str, data: dict[str, Any]) -> None:
    kind, now = kind_of(act), timezone.now()
    hooks = [one for one in Hook.objects.all() if not one.kinds or kind in one.kinds]
    told = {"type": kind, "timestamp": now.isoformat(), "data": data}
    Call.objects.bulk_create(
        Call(
            hook=hook,
            key=f"evt_{secrets.token_urlsafe(20)}",
            kind=kind,
            body=json.dumps(told, ensure_ascii=False, separators=(",", ":")),
            made_at=now,
            next_at=now,
        )
        for hook in hooks
    )


def send_again(call: Call) -> None:
    """Have a call sent once more, with the same key."""
    call.state, call.next_at, call.tries = Call.WAITING, timezone.now(), 0
    call.save(update_fields=["state", "next_at", "tries"])
