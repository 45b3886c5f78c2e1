"""Recipes that were kept, and the versions that were made by them."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse

from ...core.cured.versions import Recipe, recipe_from_json
from ..library.models import Attempt, Title, Viewer


class RecipeQuerySet(models.QuerySet["KeptRecipe"]):
    def visible_to(self, user: Viewer) -> RecipeQuerySet:
        """Return the recipes of titles that a user may see."""
        return self.filter(title__in=Title.objects.visible_to(user).values("pk"))


class KeptRecipe(models.Model):
    """One version of a title's recipe; it is never changed: an edited one is the next.

    place: where it stands among the title's recipes, which are made in that order.
    """

    title = models.ForeignKey(Title, on_delete=models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=80)
    version = models.PositiveIntegerField()
    place = models.PositiveIntegerField(default=0)
    text = models.TextField()
    kept_at = models.DateTimeField(auto_now_add=True)
    kept_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = RecipeQuerySet.as_manager()

    class Meta:
        ordering = ["name", "version"]
        constraints = [
            models.UniqueConstraint(
                fields=["title", "name", "version"], name="one_recipe_of_a_version"
            )
        ]

    def __str__(self) -> str:
        return f"{self.name}, version {self.version}"

    def get_absolute_url(self) -> str:
        return reverse("versions:recipe", args=[self.pk])

    @property
    def recipe(self) -> Recipe:
        """Return the recipe."""
        return recipe_from_json(self.text)


class MadeVersion(models.Model):
    """A version that someone asked for, and the attempt that it became.

    clip: the part of the master that it is, by the clip's name; empty for a recipe without clips.
    file_name: where its file goes, from when it is asked for. notes: what the editor should know.
    """

    recipe = models.ForeignKey(KeptRecipe, on_delete=models.PROTECT, related_name="versions")
    attempt = models.OneToOneField(
        Attempt, null=True, on_delete=models.CASCADE, related_name="made_by_recipe"
    )
    clip = models.CharField(max_length=40, blank=True)
    file_name = models.CharField(max_length=255, unique=True)
    notes = models.JSONField(default=list)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"version by {self.recipe}"

    @property
    def part(self) -> Recipe:
        """Return the recipe of this one file: its clip's, where there are clips."""
        whole = self.recipe.recipe
        names = [clip.name for clip in whole.clips]
        return whole.files[names.index(self.clip)] if self.clip in names else whole

    @property
    def judged(self) -> Any:
        """Return the judgement of the attempt; None before any."""
        return self.attempt.judged if self.attempt else None
