"""Rehearsals that were asked for, and the ways of sending that were tried beside them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse

from ...core.rehearsed.ladder import Excerpt
from ...core.rehearsed.stand_in import StandIn, stand_in_from_json
from ..library.models import Attempt, Viewer


class RehearsalQuerySet(models.QuerySet["Rehearsal"]):
    def visible_to(self, user: Viewer) -> RehearsalQuerySet:
        """Return the rehearsals of attempts that a user may see."""
        return self.filter(attempt__in=Attempt.objects.visible_to(user))

    def with_context(self) -> RehearsalQuerySet:
        """Add what pages show around one."""
        return self.select_related("attempt__delivery__title__master", "attempt__reel")


class Rehearsal(models.Model):
    """One attempt through one stand-in, as both were then.

    stand_in: the file's text. whole: all of the film in place of excerpts. found: as in
    `shapkeen.rehearsal/1`, with every measured frame; empty until it is made.
    """

    attempt = models.ForeignKey(Attempt, on_delete=models.CASCADE, related_name="rehearsals")
    service = models.CharField(max_length=80)
    key = models.CharField(max_length=60)
    stand_in = models.TextField()
    whole = models.BooleanField(default=False)
    promise_digest = models.CharField(max_length=64)
    size_bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()
    found = models.JSONField(default=dict)
    seconds = models.FloatField(default=0.0)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = RehearsalQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.attempt} through {self.service}"

    def get_absolute_url(self) -> str:
        return reverse("rehearsal:rehearsal", args=[self.pk])

    @property
    def folder(self) -> Path:
        """Return where its renditions are kept."""
        folder: Path = settings.CONF.data_dir / "rehearsals" / str(self.pk)
        return folder

    def service_as_asked(self) -> StandIn:
        """Return the stand-in as it was when this was asked for; raises UsageError."""
        return stand_in_from_json(self.stand_in)

    @property
    def excerpts(self) -> tuple[Excerpt, ...]:
        """Return the excerpts that were tried."""
        return tuple(Excerpt(**one) for one in self.found.get("excerpts", []))

    @property
    def moments(self) -> dict[str, int]:
        """Return kind of moment → frame."""
        return {kind: at for one in self.excerpts for kind, at in one.moments.items()}

    @property
    def out_of_date(self) -> list[str]:
        """Return why it is no longer that of the present promise and file; empty while it is."""
        reasons = []
        if self.promise_digest != self.attempt.delivery.promise_digest:
            reasons.append("the promise has changed")
        if (self.size_bytes, self.changed_ns) != self.attempt.reel.state:
            reasons.append("the file has been replaced")
        return reasons


class Trial(models.Model):
    """Ways of sending that were tried through a rehearsal's stand-in.

    question, outcomes: as core.rehearsed.what_if has them. master_size, master_changed_ns: the
    state of what is sent. seconds: that it took.
    """

    rehearsal = models.ForeignKey(Rehearsal, on_delete=models.CASCADE, related_name="trials")
    question = models.JSONField()
    master_size = models.BigIntegerField()
    master_changed_ns = models.BigIntegerField()
    outcomes = models.JSONField(default=list)
    seconds = models.FloatField(default=0.0)
    asked_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"what if, {self.rehearsal}"

    @property
    def folder(self) -> Path:
        """Return where its pictures are kept: one folder a state of the master, for all trials."""
        state = f"{self.master_size}-{self.master_changed_ns}"
        return self.rehearsal.folder / "what-if" / state

    @property
    def question_text(self) -> str:
        """Return the question as text, for a child process."""
        return json.dumps(self.question)

    @property
    def rows(self) -> list[dict[str, Any]]:
        """Return the outcomes, the best detail first."""
        return sorted(self.outcomes, key=lambda one: -(one["seen"]["detail_kept"] or 0))
