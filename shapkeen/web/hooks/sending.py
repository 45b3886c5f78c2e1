"""Sending what waits: signed as the open specification Standard Webhooks 1.0 has it, and patient.

The specification names the headers, what is signed, when to try again, and that 410 Gone ends it.
"""

from datetime import timedelta
from typing import Final

import httpx
from django.db.models import QuerySet
from django.utils import timezone
from standardwebhooks import Webhook

from ... import __version__
from .models import Call, Hook

WAITS_S: Final = (5, 300, 1800, 7200, 18_000, 36_000, 50_400, 72_000, 86_400)
"""Between tries, as the specification advises: some three days in all."""
ANSWER_S = 10.0
MOST_ANSWER = 4096
"""Bytes of an answer that are read; its beginning is kept."""
KEPT_DAYS = 30
GONE = 410
AT_ONCE = 100


def due() -> QuerySet[Call]:
    """Return the calls whose time has come, the oldest first."""
    ready = Call.objects.filter(state=Call.WAITING, next_at__lte=timezone.now(), hook__off_why="")
    return ready.select_related("hook").order_by("pk")


def send_due(client: httpx.Client) -> int:
    """Send what is due, and return how many calls were answered well.

    Each hook by itself: one that fails is not asked again in this round, and however much waits for
    it, the others are sent theirs.
    """
    sent = 0
    for hook in Hook.objects.filter(off_why=""):
        for call in due().filter(hook=hook)[:AT_ONCE]:
            if not _send(client, call):
                break
            sent += 1
    return sent


def _send(client: httpx.Client, call: Call) -> bool:
    """Send one call and keep how it was answered; returns whether that was well."""
    now = timezone.now()
    signature = Webhook(call.hook.secret).sign(call.key, now, call.body)
    headers = {
        "content-type": "application/json",
        "user-agent": f"Shapkeen/{__version__}",
        "webhook-id": call.key,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": signature,
    }
    status, answer = None, ""
    try:
        with client.stream(
            "POST", call.hook.address, content=call.body.encode(), headers=headers
        ) as came:
            status = came.status_code
            answer = _beginning(came)
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        answer = f"{type(error).__name__}: {error}"
    _keep(call, status, answer)
    return call.state == Call.SENT


def _beginning(came: httpx.Response) -> str:
    read = b""
    for part in came.iter_raw(MOST_ANSWER):
        read += part
        if len(read) >= MOST_ANSWER:
            break
    return read[:MOST_ANSWER].decode(errors="replace")


def _keep(call: Call, status: int | None, answer: str) -> None:
    call.tries += 1
    call.status, call.answer, call.sent_at = status, answer[:300], timezone.now()
    if status is not None and 200 <= status < 300:
        call.state, call.next_at = Call.SENT, None
    elif status == GONE:
        call.state, call.next_at = Call.GIVEN_UP, None
        call.hook.off_why = "it answered 410 Gone"
        call.hook.save(update_fields=["off_why"])
    elif call.tries > len(WAITS_S):
        call.state, call.next_at = Call.GIVEN_UP, None
    else:
        call.next_at = timezone.now() + timedelta(seconds=WAITS_S[call.tries - 1])
    call.save(update_fields=["tries", "status", "answer", "sent_at", "state", "next_at"])


def new_client() -> httpx.Client:
    """Return a client that follows no redirection: a hook's address is the only one asked."""
    return httpx.Client(timeout=ANSWER_S, follow_redirects=False, trust_env=False)


def tidy() -> int:
    """Forget calls that were over long ago, or wait for a hook that is told nothing any more.

    Returns how many.
    """
    old = Call.objects.filter(made_at__lt=timezone.now() - timedelta(days=KEPT_DAYS))
    return old.exclude(state=Call.WAITING, hook__off_why="").delete()[0]
