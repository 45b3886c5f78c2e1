"""Reports that were asked for."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils.text import slugify

from ..library.models import Attempt, Title, Viewer


class ReportQuerySet(models.QuerySet["KeptReport"]):
    def visible_to(self, user: Viewer) -> ReportQuerySet:
        """Return the reports of titles that a user may see."""
        return self.filter(title__in=Title.objects.visible_to(user).values("pk"))


class KeptReport(models.Model):
    """One report in one form. attempt: what it is of; null = all deliveries of the title.

    size_bytes, sha256: of its file; 0 and empty until it is made.
    """

    title = models.ForeignKey(Title, on_delete=models.CASCADE, related_name="reports")
    attempt = models.ForeignKey(
        Attempt, null=True, on_delete=models.CASCADE, related_name="reports"
    )
    form = models.CharField(max_length=5)
    paper = models.CharField(max_length=8, default="A4")
    overall = models.CharField(max_length=10, blank=True)
    size_bytes = models.BigIntegerField(default=0)
    sha256 = models.CharField(max_length=64, blank=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = ReportQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.form} report of {self.attempt or self.title}"

    def get_absolute_url(self) -> str:
        return reverse("reports:report", args=[self.pk])

    @property
    def path(self) -> Path:
        """Return where its file lies."""
        folder: Path = settings.CONF.data_dir / "reports"
        return folder / f"{self.pk}.{self.form}"

    @property
    def file_name(self) -> str:
        """Return the name that it is handed out by."""
        about = slugify(str(self.attempt or self.title)) or "report"
        return f"{about}-report.{self.form}"
