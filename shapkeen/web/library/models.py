"""Titles, reels (files), promises, deliveries and their attempts."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db import models
from django.urls import reverse

from ...core.judged import Comparison
from ...core.promised import Promise, promise_from_json
from ...core.reported.record import comparison_from_record
from . import roots

Viewer = AbstractBaseUser | AnonymousUser


class ReelQuerySet(models.QuerySet["Reel"]):
    def visible_to(self, user: Viewer) -> ReelQuerySet:
        """Return the files of titles and attempts that a user may see."""
        return self if user.is_authenticated else self.none()

    def with_context(self) -> ReelQuerySet:
        return self.select_related("title", "attempt__delivery__title", "attempt__job")


class Reel(models.Model):
    """A file on a media root, with what it declared when it was brought in."""

    root = models.CharField(max_length=60)
    path = models.CharField(max_length=1000)
    size_bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()
    declaration = models.JSONField()
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = ReelQuerySet.as_manager()

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("library:file", args=[self.pk])

    @property
    def name(self) -> str:
        return Path(self.path).name

    def locate(self) -> Path:
        """Return the file's place; raises UsageError where it is gone or outside its root."""
        return roots.resolve(self.root, self.path)


class TitleQuerySet(models.QuerySet["Title"]):
    def visible_to(self, user: Viewer) -> TitleQuerySet:
        """Return the titles that a user may see: for now every title to everyone inside."""
        return self if user.is_authenticated else self.none()

    def with_deliveries(self) -> TitleQuerySet:
        return self.select_related("master").prefetch_related(
            "deliveries__attempts__job", "deliveries__kept_plan"
        )


class Title(models.Model):
    """A production being finished."""

    name = models.CharField(max_length=120, unique=True)
    note = models.CharField(max_length=200, blank=True)
    master = models.OneToOneField(Reel, on_delete=models.PROTECT, related_name="title")
    created_at = models.DateTimeField(auto_now_add=True)

    objects = TitleQuerySet.as_manager()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("library:title", args=[self.pk])


class Delivery(models.Model):
    """One receiver of a title, with what it asks for beyond the master."""

    title = models.ForeignKey(Title, on_delete=models.CASCADE, related_name="deliveries")
    name = models.CharField(max_length=80)
    promise_text = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]
        verbose_name_plural = "deliveries"
        constraints = [
            models.UniqueConstraint(fields=["title", "name"], name="one_delivery_of_a_name")
        ]

    def __str__(self) -> str:
        return f"{self.title} › {self.name}"

    def get_absolute_url(self) -> str:
        return reverse("library:delivery-promise", args=[self.pk])

    def overrides(self) -> Promise | None:
        """Return the delivery's own promise, None where it asks for nothing of its own."""
        if not self.promise_text.strip():
            return None
        return promise_from_json(self.promise_text, origin=f"delivery {self.name}")

    @property
    def latest(self) -> Attempt | None:
        """Return the newest attempt, from prefetched ones where there are."""
        attempts = list(self.attempts.all())
        return attempts[-1] if attempts else None


class AttemptQuerySet(models.QuerySet["Attempt"]):
    def visible_to(self, user: Viewer) -> AttemptQuerySet:
        return self if user.is_authenticated else self.none()

    def with_context(self) -> AttemptQuerySet:
        return self.select_related("delivery__title__master", "delivery__kept_plan", "reel", "job")


class Attempt(models.Model):
    """One export for a delivery, and what comparing it with the master brought."""

    delivery = models.ForeignKey(Delivery, on_delete=models.CASCADE, related_name="attempts")
    number = models.PositiveIntegerField()
    reel = models.OneToOneField(Reel, on_delete=models.PROTECT, related_name="attempt")
    overall = models.CharField(max_length=10, blank=True)
    tally = models.JSONField(default=list)
    record = models.JSONField(null=True)

    objects = AttemptQuerySet.as_manager()

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["delivery", "number"], name="one_attempt_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.delivery} › attempt {self.number}"

    def get_absolute_url(self) -> str:
        return reverse("bench:bench", args=[self.pk])

    def record_comparison(self, record: dict[str, Any], overall: str, tally: list[Any]) -> None:
        """Save what was found, named fields only."""
        self.record, self.overall, self.tally = record, overall, tally
        self.save(update_fields=["record", "overall", "tally"])

    def comparison(self) -> Comparison | None:
        """Return the stored comparison; None before the survey has ended, or if it is outdated."""
        try:
            return comparison_from_record(self.record) if self.record else None
        except ValueError:
            return None
