"""Webhooks, and every call of one with how it was answered."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.urls import reverse


class Hook(models.Model):
    """An address that is told what happens.

    secret: what calls are signed by; it is needed each time, so it cannot be kept as a digest.
    kinds: of events, all that are told where it is empty. off_why: why it is told nothing now.
    """

    name = models.CharField(max_length=80, unique=True)
    address = models.URLField(max_length=400)
    secret = models.CharField(max_length=80)
    kinds = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    off_why = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("hooks:hook", args=[self.pk])


class Call(models.Model):
    """One event on its way to one hook. It is written with what it tells of, or not at all.

    key: the same each time that it is sent, so that who receives it can leave doubles out. body:
    as it is signed. next_at: when it is sent (again); null once it is over. status: of the last
    answer, null where none came. answer: its beginning, or what went wrong.
    """

    WAITING, SENT, GIVEN_UP = "waiting", "sent", "given up"

    hook = models.ForeignKey(Hook, on_delete=models.CASCADE, related_name="calls")
    key = models.CharField(max_length=40, unique=True)
    kind = models.CharField(max_length=60)
    body = models.TextField()
    made_at = models.DateTimeField()
    state = models.CharField(max_length=10, default=WAITING)
    tries = models.PositiveIntegerField(default=0)
    next_at = models.DateTimeField(null=True, db_index=True)
    sent_at = models.DateTimeField(null=True)
    status = models.PositiveIntegerField(null=True)
    answer = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.kind} to {self.hook}: {self.state}"
