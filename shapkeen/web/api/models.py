"""Tokens, uploads in parts, and answers that are remembered."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models
from django.utils import timezone

from ..library.uploads import PART_ENDING
from ..people.roles import ACTS, ADD, SEE

SCOPES: dict[str, frozenset[str]] = {
    "read": frozenset({SEE}),
    "deliver": frozenset({SEE, ADD}),
    "whole": frozenset(ACTS),
}
"""What a token may do at most, whatever its person's roles allow."""


class ApiToken(models.Model):
    """One token of one person. digest: SHA-256 of it; itself it is shown once, and kept nowhere."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="api_tokens"
    )
    name = models.CharField(max_length=80)
    scope = models.CharField(max_length=8, choices=[(one, one) for one in SCOPES])
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def is_alive(self) -> bool:
        return self.ended_at is None and self.expires_at > timezone.now()


class Upload(models.Model):
    """A file that is sent in parts. received: bytes that are on the disk, in order."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=200)
    size_bytes = models.BigIntegerField()
    received = models.BigIntegerField(default=0)
    made_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.name}, {self.received} of {self.size_bytes}"

    @property
    def path(self) -> Path:
        """Return where its parts lie."""
        folder: Path = settings.CONF.upload_dir
        return folder / f".upload-{self.pk}{PART_ENDING}"


class Remembered(models.Model):
    """What was answered to a request with an idempotency key: sent again, it is answered alike.

    request_digest: of method, address and body; another request with the same key is refused.
    status 0: the first one is under way.
    """

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    key = models.CharField(max_length=120)
    request_digest = models.CharField(max_length=64)
    status = models.PositiveSmallIntegerField(default=0)
    answer = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "key"], name="one_answer_of_a_key")]

    def __str__(self) -> str:
        return self.key
