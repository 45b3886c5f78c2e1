"""Kept plans, and how fast this machine encodes."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models

from ...core.promised.planning import Sheet, sheet_from_object
from ..library.models import Delivery


class KeptPlan(models.Model):
    """The plan that a delivery is exported by.

    specification: a copy of its file as it was then. fields: the choices as the page carries them;
    sheet: the settings sheet that what comes back is held against.
    """

    delivery = models.OneToOneField(Delivery, on_delete=models.CASCADE, related_name="kept_plan")
    specification = models.TextField()
    fields = models.JSONField()
    sheet = models.JSONField()
    made_at = models.DateTimeField(auto_now=True)
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    def __str__(self) -> str:
        return f"plan of {self.delivery}"

    @property
    def settings_sheet(self) -> Sheet:
        """Return the settings sheet."""
        return sheet_from_object(self.sheet)


class EncodingSpeedQuerySet(models.QuerySet["EncodingSpeed"]):
    def by_codec(self) -> dict[str, float]:
        """Return codec → picture samples a second."""
        return {one.codec: one.samples_a_second for one in self}


class EncodingSpeed(models.Model):
    """How fast this machine encodes with a codec, as measured last."""

    codec = models.CharField(max_length=20, unique=True)
    samples_a_second = models.FloatField()
    measured_at = models.DateTimeField(auto_now=True)

    objects = EncodingSpeedQuerySet.as_manager()

    def __str__(self) -> str:
        return f"{self.codec}: {self.samples_a_second:.0f} samples/s"

    @classmethod
    def record(cls, codec: str, samples_a_second: float) -> None:
        """Save the newest measure of a codec."""
        values: dict[str, Any] = {"samples_a_second": samples_a_second}
        cls.objects.update_or_create(codec=codec, defaults=values)
