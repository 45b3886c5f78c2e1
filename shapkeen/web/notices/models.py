"""Until when somebody has seen what happened."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Seen(models.Model):
    """One person, and until when the news were looked at."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="news_seen"
    )
    until = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.user} until {self.until:%Y-%m-%d %H:%M}"
