"""Making and closing accounts, and giving and taking roles; all of it goes into the history."""

import secrets
from typing import Any

from django.db import transaction

from ...core.errors import UsageError
from ..history.services import Place, record
from ..library.models import Title
from ..people.models import Grant
from ..people.presence import end_all
from ..people.rights import last_administrator

CLOSE, OPEN, ADMINISTRATE, PLAIN = "close", "open", "administrate", "plain"


def new_password(user: Any, *, by: Any) -> str:
    """Return a new password for somebody who forgot theirs; every session of theirs ends."""
    password = secrets.token_urlsafe(12)
    with transaction.atomic():
        user.set_password(password)
        user.save(update_fields=["password"])
        end_all(user)
        record("password set anew", _of(user), by=by)
    return password


def _of(user: Any) -> Place:
    return Place(f"account {user.get_username()}")


@transaction.atomic
def make_account(form: Any, *, by: Any) -> Any:
    """Return the account of a filled form, with its role."""
    user = form.save()
    record("account made", _of(user), by=by)
    give(user, form.cleaned_data["role"], form.cleaned_data["title"], by=by)
    return user


@transaction.atomic
def give(user: Any, role: str, title: Title | None, *, by: Any) -> None:
    """Give a person a role, of one title or (None) of all; having it already changes nothing."""
    _, is_new = Grant.objects.get_or_create(user=user, role=role, title=title)
    if is_new:
        after = {"role": role, "of": title.name if title else "all titles"}
        record("role given", _of(user), by=by, after=after)


@transaction.atomic
def take(grant: Grant, *, by: Any) -> None:
    """Take a role from a person."""
    before = {"role": grant.role, "of": grant.title.name if grant.title else "all titles"}
    record("role taken", _of(grant.user), by=by, before=before)
    grant.delete()


@transaction.atomic
def change(user: Any, act: str, *, by: Any) -> None:
    """Close or open an account, or make it an administrator's or a plain one.

    Raises UsageError where nobody would be left to give rights back.
    """
    if act in (CLOSE, PLAIN) and last_administrator(user):
        raise UsageError(
            f"{user.get_username()} is the last administrator. Make another one first.",
            code="last-administrator",
            where=user.get_username(),
        )
    if act in (CLOSE, OPEN):
        user.is_active = act == OPEN
    else:
        user.is_superuser = user.is_staff = act == ADMINISTRATE
    user.save(update_fields=["is_active", "is_superuser", "is_staff"])
    if act == CLOSE:
        end_all(user)
    words = {
        CLOSE: "account closed",
        OPEN: "account opened again",
        ADMINISTRATE: "made an administrator",
        PLAIN: "no administrator any more",
    }
    record(words[act], _of(user), by=by)
