"""Making tokens, and knowing whose a token is."""

import hashlib
import secrets
from datetime import timedelta
from typing import Any

from django.utils import timezone

from ..history.services import Place, record
from .models import SCOPES, ApiToken

PREFIX = "shk_"
"""So that a token that lies somewhere by mistake is known for what it is."""
LONGEST_DAYS = 366
USED_EVERY = timedelta(minutes=1)


def digest_of(token: str) -> str:
    """Return what a token is known by; it is long and random, so no salt is needed."""
    return hashlib.sha256(token.encode()).hexdigest()


def make_token(user: Any, name: str, scope: str, days: int) -> tuple[ApiToken, str]:
    """Return a new token's row, and the token, which nobody can be shown again."""
    token = PREFIX + secrets.token_urlsafe(32)
    row = ApiToken.objects.create(
        user=user,
        name=name,
        scope=scope,
        digest=digest_of(token),
        expires_at=timezone.now() + timedelta(days=min(days, LONGEST_DAYS)),
    )
    after = {"token": name, "scope": scope, "until": f"{row.expires_at:%Y-%m-%d}"}
    record("API token made", Place(user.get_username()), by=user, after=after)
    return row, token


def end_token(row: ApiToken, *, by: Any) -> None:
    """End a token; what was done with it stays in the history."""
    row.ended_at = timezone.now()
    row.save(update_fields=["ended_at"])
    record("API token ended", Place(row.user.get_username()), by=by, before={"token": row.name})


def person_of(token: str) -> Any:
    """Return the person of a token, who may do no more than its scope; None where it is none."""
    row = ApiToken.objects.select_related("user").filter(digest=digest_of(token)).first()
    if row is None or not row.is_alive or not row.user.is_active:
        return None
    now = timezone.now()
    if row.used_at is None or now - row.used_at > USED_EVERY:
        ApiToken.objects.filter(pk=row.pk).update(used_at=now)
    person = row.user
    person.acts_at_most = SCOPES[row.scope]  # type: ignore[attr-defined]  # people.rights reads it
    return person
