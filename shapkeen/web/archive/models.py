"""Archives that were asked for."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse


class Archive(models.Model):
    """One archive of some titles. choices: as forms.ChoiceForm gives them.

    files, size_bytes: of its payload, 0 until it is written. checked_at, problems: of the last
    verification.
    """

    name = models.CharField(max_length=80, unique=True)
    choices = models.JSONField()
    titles = models.JSONField(default=list)
    files = models.PositiveIntegerField(default=0)
    size_bytes = models.BigIntegerField(default=0)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    written_at = models.DateTimeField(null=True)
    checked_at = models.DateTimeField(null=True)
    problems = models.JSONField(default=list)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("archive:archive", args=[self.pk])

    @property
    def folder(self) -> Path:
        """Return where its bag lies."""
        folder: Any = settings.CONF.archive_dir
        return Path(folder) / self.name
