"""Which role a person has, for all titles or for one."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from .roles import ROLES


class Grant(models.Model):
    """One role of one person. title: where it holds; null = everywhere."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="grants"
    )
    role = models.CharField(max_length=10, choices=[(role, role) for role in ROLES])
    title = models.ForeignKey(
        "library.Title", null=True, on_delete=models.CASCADE, related_name="grants"
    )
    given_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["user", "role", "title"], name="one_grant_of_a_role_and_title"
            ),
            models.UniqueConstraint(
                fields=["user", "role"],
                condition=models.Q(title=None),
                name="one_grant_of_a_role_everywhere",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.user}: {self.role} of {self.title or 'all titles'}"


class Presence(models.Model):
    """One session of one person: where from by the browser's own words, and when seen last."""

    session_key = models.CharField(max_length=40, unique=True)
    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="presences"
    )
    agent = models.CharField(max_length=200, blank=True)
    began_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.user} since {self.began_at:%Y-%m-%d %H:%M}"
