"""Searches that people kept. The index itself is a virtual table (index.py), not a model."""

from django.conf import settings
from django.db import models

MOST_KEPT = 20


class KeptSearch(models.Model):
    """What one person looks for often. query: of the Shelf's address."""

    by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="kept_searches"
    )
    name = models.CharField(max_length=60)
    query = models.CharField(max_length=600)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["by", "name"], name="one_search_of_a_name"),
        ]

    def __str__(self) -> str:
        return self.name
