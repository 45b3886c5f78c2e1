"""Events: rows that are only ever added, each sealed with the one before it."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from django.db import models


class EventQuerySet(models.QuerySet["Event"]):
    def of_title(self, title_id: int) -> EventQuerySet:
        return self.filter(title_id=title_id)

    def of_attempt(self, attempt_id: int) -> EventQuerySet:
        return self.filter(attempt_id=attempt_id)


class Event(models.Model):
    """One thing that was done. No key to another table: what is gone stays in the history.

    act: as history.acts names it. subject: in words, as it was called then. before, after: what
    changed, as JSON. seal: SHA-256 of the earlier row's seal and this row. The database itself
    refuses to change or delete a row (migration 0002).
    """

    at = models.DateTimeField()
    by_id = models.PositiveBigIntegerField(null=True)
    by_name = models.CharField(max_length=160)
    act = models.CharField(max_length=40)
    title_id = models.PositiveBigIntegerField(null=True, db_index=True)
    delivery_id = models.PositiveBigIntegerField(null=True)
    attempt_id = models.PositiveBigIntegerField(null=True, db_index=True)
    subject = models.CharField(max_length=400)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    remark = models.TextField(blank=True)
    seal = models.CharField(max_length=64)

    objects = EventQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.at:%Y-%m-%d %H:%M} {self.act}: {self.subject}"

    def sealed_after(self, earlier: str) -> str:
        """Return the seal that this row must have after a row of that seal."""
        told: dict[str, Any] = {
            "at": self.at.isoformat(),
            "by": [self.by_id, self.by_name],
            "act": self.act,
            "place": [self.title_id, self.delivery_id, self.attempt_id, self.subject],
            "before": self.before,
            "after": self.after,
            "remark": self.remark,
        }
        text = json.dumps(told, sort_keys=True, ensure_ascii=False)
        return hashlib.sha256(f"{earlier}|{text}".encode()).hexdigest()
