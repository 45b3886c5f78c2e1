"""Titles, reels (files), promises, deliveries and their attempts."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any, ClassVar

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db import models
from django.urls import reverse
from django.utils import timezone

from ...core.declared import fingerprint
from ...core.errors import CoreError
from ...core.promised import Promise, promise_digest, promise_from_layers, promise_from_master
from ...core.reported.declared import declaration_from_object
from . import roots

Viewer = AbstractBaseUser | AnonymousUser


class ReelQuerySet(models.QuerySet["Reel"]):
    def visible_to(self, user: Viewer) -> ReelQuerySet:
        """Return the files of titles and attempts that a user may see."""
        return self if user.is_authenticated else self.none()

    def with_context(self) -> ReelQuerySet:
        return self.select_related("title", "attempt__delivery__title")


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
        return reverse("bench:file", args=[self.pk])

    @property
    def name(self) -> str:
        return Path(self.path).name

    def locate(self) -> Path:
        """Return the file's place; raises UsageError where it is gone or outside its root."""
        return roots.resolve(self.root, self.path)

    @property
    def state(self) -> tuple[int, int]:
        """Return size in bytes and time of change in ns, as they were when it was read last."""
        return self.size_bytes, self.changed_ns

    def is_as_read(self) -> bool:
        """Return whether the file still is the one that was read; False if it is gone."""
        try:
            found = fingerprint(self.locate())
        except CoreError:
            return False
        return (found.size_bytes, found.changed_ns) == self.state

    def take_over(self, size_bytes: int, changed_ns: int, declaration: dict[str, Any]) -> None:
        """Save what the file declares since it was replaced."""
        self.size_bytes, self.changed_ns, self.declaration = size_bytes, changed_ns, declaration
        self.save(update_fields=["size_bytes", "changed_ns", "declaration"])


class TitleQuerySet(models.QuerySet["Title"]):
    def visible_to(self, user: Viewer) -> TitleQuerySet:
        """Return the titles that a user may see: for now every title to everyone inside."""
        return self if user.is_authenticated else self.none()

    def with_deliveries(self) -> TitleQuerySet:
        """Return titles with all that lists show; of judgements the columns, not the findings."""
        attempts = Attempt.objects.listed()
        return self.select_related("master").prefetch_related(
            models.Prefetch("deliveries", queryset=Delivery.objects.listed()),
            models.Prefetch("deliveries__attempts", queryset=attempts),
        )

    def listed(self) -> TitleQuerySet:
        """Return titles for a list, without what their masters declare."""
        return self.with_deliveries().defer("master__declaration")


class Title(models.Model):
    """A production being finished."""

    name = models.CharField(max_length=120, unique=True)
    note = models.CharField(max_length=200, blank=True)
    master = models.OneToOneField(Reel, on_delete=models.PROTECT, related_name="title")
    created_at = models.DateTimeField(auto_now_add=True)
    answers_text = models.TextField(blank=True)
    """What someone said of a master that does not say it itself, as a promise file."""
    answers_at = models.DateTimeField(null=True)
    answers_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = TitleQuerySet.as_manager()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("library:title", args=[self.pk])

    @property
    def answers_origin(self) -> str:
        """Return who said it, where its values are shown."""
        return f"said of the silent master by {self.answers_by or 'someone'}"

    @property
    def file_path(self) -> str:
        """Return the path of its master within its root."""
        return self.master.path


class DeliveryQuerySet(models.QuerySet["Delivery"]):
    def listed(self) -> DeliveryQuerySet:
        """Return deliveries with whether they keep a plan, but not the plan itself."""
        return self.select_related("kept_plan").defer(
            "promise_text", "kept_plan__specification", "kept_plan__fields", "kept_plan__sheet"
        )


class Delivery(models.Model):
    """One receiver of a title, with what it asks for beyond the master."""

    title = models.ForeignKey(Title, on_delete=models.CASCADE, related_name="deliveries")
    name = models.CharField(max_length=80)
    promise_text = models.TextField(blank=True)
    promise_digest = models.CharField(max_length=64, blank=True)
    promise_at = models.DateTimeField(default=timezone.now)
    promise_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = DeliveryQuerySet.as_manager()

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
        return promise_from_layers(self.promise_layers())

    def promise_layers(self) -> list[tuple[str, str]]:
        """Return what is promised beside the master's own words: texts with their origins."""
        said = (self.title.answers_text, self.title.answers_origin)
        return [said, (self.promise_text, f"delivery {self.name}")]

    def effective_promise(self) -> Promise:
        """Return all that is promised; raises UsageError where the master cannot keep it."""
        master = declaration_from_object(self.title.master.declaration)
        return promise_from_master(master, overrides=self.overrides())

    def set_promise(self, text: str, *, by: Any, at: datetime) -> None:
        """Save what the delivery asks for, who asked and when, and its digest."""
        self.promise_text, self.promise_at = text, at
        self.promise_by = by if by is not None and by.is_authenticated else None
        self.promise_digest = promise_digest(self.effective_promise())
        fields = ["promise_text", "promise_at", "promise_by", "promise_digest"]
        self.save(update_fields=fields)

    def refresh_digest(self) -> None:
        """Save the digest anew: the master declares something else than before."""
        self.promise_digest = promise_digest(self.effective_promise())
        self.save(update_fields=["promise_digest"])

    @property
    def latest(self) -> Attempt | None:
        """Return the newest attempt, from prefetched ones where there are."""
        attempts = list(self.attempts.all())
        return attempts[-1] if attempts else None


class AttemptQuerySet(models.QuerySet["Attempt"]):
    def visible_to(self, user: Viewer) -> AttemptQuerySet:
        return self if user.is_authenticated else self.none()

    def with_context(self) -> AttemptQuerySet:
        return self.select_related(
            "delivery__title__master",
            "delivery__kept_plan",
            "reel",
            "judgement__promise_by",
        )

    def listed(self) -> AttemptQuerySet:
        """Return attempts with what lists show of their judgements and files."""
        return self.select_related("reel", "judgement").defer(
            "judgement__findings", "reel__declaration"
        )


class Attempt(models.Model):
    """One export for a delivery."""

    WORK: ClassVar[str] = "survey"
    """The kind of work that measures it."""

    delivery = models.ForeignKey(Delivery, on_delete=models.CASCADE, related_name="attempts")
    number = models.PositiveIntegerField()
    reel = models.OneToOneField(Reel, on_delete=models.PROTECT, related_name="attempt")
    sent_as = models.UUIDField(null=True, unique=True, editable=False)
    """What the form was marked with that sent it; null where no form did."""

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

    @property
    def file_path(self) -> str:
        """Return the path of its file within its root."""
        return self.reel.path

    @property
    def judged(self) -> Any:
        """Return the judgement made last, whatever has moved on since; None before any."""
        return getattr(self, "judgement", None)

    @property
    def out_of_date(self) -> list[str]:
        """Return why the judgement is no longer that of the present promise and files."""
        return self.judged.reasons_out_of_date(self) if self.judged else []
