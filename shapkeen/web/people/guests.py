"""Whoever came by a review link: nobody with an account, for one attempt only."""

from typing import Literal

from django.contrib.auth.models import AnonymousUser

from .roles import REMARK, SEE, SIGN


class Guest(AnonymousUser):
    """A visitor by a review link. It counts as logged in, and may do what the link says."""

    def __init__(self, link: int, name: str, attempt: int, *, remarks: bool, signs: bool) -> None:
        self.link_id, self.name, self.attempt_id = link, name, attempt
        self.acts = {SEE} | ({REMARK} if remarks else set()) | ({SIGN} if signs else set())

    def __str__(self) -> str:
        return self.name

    @property
    def is_authenticated(self) -> Literal[True]:  # type: ignore[override]
        """Return True: pages that are for people inside are theirs as far as the link goes."""
        return True

    def get_username(self) -> str:
        """Return whom the link was made for."""
        return self.name
