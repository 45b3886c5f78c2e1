"""What one person may do and see, from the table of roles and the grants that there are."""

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser

from .guests import Guest
from .models import Grant
from .roles import EDITOR, MAY

Viewer = AbstractBaseUser | AnonymousUser


def is_administrator(user: Viewer) -> bool:
    """Return whether somebody may do everything."""
    return bool(getattr(user, "is_superuser", False) and getattr(user, "is_active", False))


def may(user: Viewer, act: str, title_id: int | None = None) -> bool:
    """Return whether a person may do an act, of a title or (None) of the whole house."""
    if isinstance(user, Guest):
        return act in user.acts
    if not user.is_authenticated or not _in_scope(user, act):
        return False
    return is_administrator(user) or act in _acts(user, title_id)


def _in_scope(user: Viewer, act: str) -> bool:
    """Return whether an act is none that a token leaves out; people themselves have no scope."""
    scope = getattr(user, "acts_at_most", None)
    return scope is None or act in scope


def may_somewhere(user: Viewer, act: str) -> bool:
    """Return whether a person may do an act of any title at all."""
    if isinstance(user, Guest) or not user.is_authenticated or not _in_scope(user, act):
        return False
    return is_administrator(user) or any(act in MAY[role] for role, _ in _grants(user))


def _acts(user: Viewer, title_id: int | None) -> set[str]:
    return {
        act
        for role, title in _grants(user)
        if title is None or (title_id is not None and title == title_id)
        for act in MAY[role]
    }


def _grants(user: Viewer) -> list[tuple[str, int | None]]:
    """Return a person's roles and where they hold, read once a request."""
    known: list[tuple[str, int | None]] | None = getattr(user, "_shapkeen_grants", None)
    if known is None:
        found = Grant.objects.filter(user__username=user.get_username())
        known = list(found.values_list("role", "title_id"))
        user._shapkeen_grants = known  # type: ignore[union-attr]
    return known


def titles_of(user: Viewer) -> set[int] | None:
    """Return the numbers of the titles that a person may see; None = all of them."""
    if isinstance(user, Guest) or not user.is_authenticated:
        return set()
    if is_administrator(user):
        return None
    titles = {title for _, title in _grants(user)}
    return None if None in titles else {title for title in titles if title is not None}


def account_of(user: Any) -> Any:
    """Return a person as what was done is kept under; None for whoever has no account."""
    return user if user is not None and user.is_authenticated and user.pk else None


def make_person(
    name: str, password: str, *, role: str = EDITOR, administrator: bool = False
) -> Any:
    """Return a new account with one role for all titles."""
    user = get_user_model().objects.create_user(name, password=password)
    if administrator:
        user.is_staff = user.is_superuser = True
        user.save(update_fields=["is_staff", "is_superuser"])
    Grant.objects.create(user=user, role=role)
    return user


def people() -> Any:
    """Return all accounts with their grants, by name."""
    return get_user_model().objects.order_by("username").prefetch_related("grants__title")


def last_administrator(user: Any) -> bool:
    """Return whether nobody else could give rights back if this one were closed."""
    others = get_user_model().objects.filter(is_superuser=True, is_active=True).exclude(pk=user.pk)
    return is_administrator(user) and not others.exists()
