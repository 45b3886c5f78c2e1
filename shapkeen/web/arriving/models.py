"""Files that arrived, and what films are known again by."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import Any

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from ..library import roots
from ..library.models import Attempt, Reel, Title


class Arrival(models.Model):
    """A file that came in and is not placed yet.

    sent_name: with its folders, as it was sent. size_bytes, changed_ns, declaration, marks: what
    was read of it; declaration is null until then. trouble: why it cannot be read.
    """

    root = models.CharField(max_length=60)
    path = models.CharField(max_length=1000)
    sent_name = models.CharField(max_length=1000)
    size_bytes = models.BigIntegerField(default=0)
    changed_ns = models.BigIntegerField(default=0)
    declaration = models.JSONField(null=True)
    marks = models.JSONField(default=list)
    trouble = models.CharField(max_length=400, blank=True)
    came_at = models.DateTimeField(auto_now_add=True)
    came_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)

    class Meta:
        ordering = ["sent_name", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["came_by", "root", "path"], name="arrived_once")
        ]

    def __str__(self) -> str:
        return self.sent_name

    @property
    def name(self) -> str:
        return PurePosixPath(self.sent_name).name

    @property
    def is_read(self) -> bool:
        return self.declaration is not None or bool(self.trouble)

    def locate(self) -> Any:
        """Return the file's place; raises UsageError where it is gone."""
        return roots.resolve(self.root, self.path)


class FilmMarks(models.Model):
    """What a master is known again by (core, compared/likeness.py), and of which state of it."""

    reel = models.OneToOneField(Reel, on_delete=models.CASCADE, related_name="film_marks")
    size_bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()
    marks = models.JSONField()

    def __str__(self) -> str:
        return f"marks of {self.reel}"


class Watch(models.Model):
    """A folder whose files become attempts by themselves.

    pattern: of file names, with * and ?, several parted by spaces. settle_s: for how long size and
    time of change must stay. marker: an ending; where there is one, only files are taken beside
    which a file with that ending added lies. trouble: why the folder cannot be looked into now.
    """

    title = models.ForeignKey(Title, on_delete=models.CASCADE, related_name="watches")
    delivery_name = models.CharField(max_length=80)
    root = models.CharField(max_length=60)
    folder = models.CharField(max_length=900, blank=True)
    pattern = models.CharField(max_length=200, default="*")
    settle_s = models.PositiveIntegerField(
        default=30, validators=[MinValueValidator(1), MaxValueValidator(86_400)]
    )
    marker = models.CharField(max_length=20, blank=True)
    paused = models.BooleanField(default=False)
    trouble = models.CharField(max_length=300, blank=True)
    looked_at = models.DateTimeField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.root}:{self.folder or '/'} {self.pattern}"


class WatchedFile(models.Model):
    """One file of a watched folder, in the state that it was seen in last.

    inode: by which a file that was renamed is known again. since: from when it has been as it is.
    taken: an attempt was made of that state. attempt: which; null also where it is gone since.
    trouble: why none was made.
    """

    watch = models.ForeignKey(Watch, on_delete=models.CASCADE, related_name="files")
    path = models.CharField(max_length=1000)
    size_bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()
    inode = models.DecimalField(max_digits=20, decimal_places=0)
    since = models.DateTimeField()
    attempt = models.ForeignKey(
        Attempt, null=True, on_delete=models.SET_NULL, related_name="watched_files"
    )
    taken = models.BooleanField(default=False)
    trouble = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["path"]
        constraints = [models.UniqueConstraint(fields=["watch", "path"], name="watched_once")]

    def __str__(self) -> str:
        return self.path

    @property
    def name(self) -> str:
        return PurePosixPath(self.path).name
