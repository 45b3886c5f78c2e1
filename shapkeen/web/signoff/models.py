"""Digests of files, waivers, signatures, review links and remarks."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils import timezone

from ..library.models import Attempt, Reel

WHO = settings.AUTH_USER_MODEL


class FileDigest(models.Model):
    """The SHA-256 of one file in the state that it was read in last.

    since: from when its bytes have been these, as its inode tells.
    """

    reel = models.OneToOneField(Reel, on_delete=models.CASCADE, related_name="digest")
    size_bytes = models.BigIntegerField()
    changed_ns = models.BigIntegerField()
    inode_ns = models.BigIntegerField()
    sha256 = models.CharField(max_length=64)
    since = models.DateTimeField()
    taken_at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{self.reel}: {self.sha256[:12]}"


class ReviewLink(models.Model):
    """A way in for somebody without an account, to one attempt.

    token_digest: SHA-256 of the token; the token itself is shown once and kept nowhere.
    """

    attempt = models.ForeignKey(Attempt, on_delete=models.CASCADE, related_name="links")
    token_digest = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=80)
    remarks = models.BooleanField(default=True)
    signs = models.BooleanField(default=False)
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(WHO, null=True, on_delete=models.SET_NULL, related_name="+")
    ends_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    views = models.PositiveIntegerField(default=0)
    seen_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"link for {self.name}"

    @property
    def is_open(self) -> bool:
        return self.ended_at is None and self.ends_at > timezone.now()

    @property
    def state(self) -> str:
        """Return what it is now, in a word."""
        if self.ended_at is not None:
            return "ended"
        return "open" if self.is_open else "run out"


class Waiver(models.Model):
    """A finding that somebody lets pass, with the reason. verdict: as it was then."""

    attempt = models.ForeignKey(Attempt, on_delete=models.CASCADE, related_name="waivers")
    trait = models.CharField(max_length=40)
    verdict = models.CharField(max_length=10)
    reason = models.CharField(max_length=500)
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(WHO, null=True, on_delete=models.SET_NULL, related_name="+")
    by_name = models.CharField(max_length=160)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["attempt", "trait"],
                condition=models.Q(ended_at=None),
                name="one_waiver_of_a_trait",
            )
        ]

    def __str__(self) -> str:
        return f"{self.trait} waived"


class Signature(models.Model):
    """Somebody's decision on an attempt, and all that it binds. Never changed; a later one counts.

    bound, bound_digest: promise and verdicts as core.reported.bound has them. waived: traits that
    were waived then. The states let lists tell without reading a file that something moved.
    """

    SIGNED, REFUSED = "signed", "refused"

    attempt = models.ForeignKey(Attempt, on_delete=models.CASCADE, related_name="signatures")
    decision = models.CharField(max_length=8, choices=[(SIGNED, SIGNED), (REFUSED, REFUSED)])
    remark = models.CharField(max_length=1000, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(WHO, null=True, on_delete=models.SET_NULL, related_name="+")
    by_name = models.CharField(max_length=160)
    link = models.ForeignKey(ReviewLink, null=True, on_delete=models.SET_NULL, related_name="+")
    master_name = models.CharField(max_length=255)
    master_sha256 = models.CharField(max_length=64)
    export_name = models.CharField(max_length=255)
    export_sha256 = models.CharField(max_length=64)
    master_state = models.JSONField()
    export_state = models.JSONField()
    promise_digest = models.CharField(max_length=64)
    bound = models.JSONField()
    bound_digest = models.CharField(max_length=64)
    waived = models.JSONField(default=list)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.decision} by {self.by_name}"

    def seems_moved(self, attempt: Attempt) -> bool:
        """Return whether columns alone tell that it is no longer what was signed: for lists."""
        files = [list(attempt.delivery.title.master.state), list(attempt.reel.state)]
        moved = files != [self.master_state, self.export_state]
        known = (
            (attempt.delivery.title.master, self.master_sha256),
            (attempt.reel, self.export_sha256),
        )
        moved = moved or any(
            hasattr(reel, "digest") and reel.digest.sha256 != then for reel, then in known
        )
        return moved or self.promise_digest != attempt.delivery.promise_digest


class Remark(models.Model):
    """Something said at a frame and a place of the picture, or an answer to it.

    frame: of the export. x, y: of the master's picture, as fractions; null = the whole picture.
    """

    attempt = models.ForeignKey(Attempt, on_delete=models.CASCADE, related_name="remarks")
    answers = models.ForeignKey(
        "self", null=True, on_delete=models.CASCADE, related_name="answered_by"
    )
    frame = models.PositiveIntegerField()
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    text = models.CharField(max_length=1000)
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(WHO, null=True, on_delete=models.SET_NULL, related_name="+")
    by_name = models.CharField(max_length=160)
    link = models.ForeignKey(ReviewLink, null=True, on_delete=models.SET_NULL, related_name="+")
    closed_at = models.DateTimeField(null=True)
    closed_by = models.CharField(max_length=160, blank=True)

    class Meta:
        ordering = ["frame", "pk"]

    def __str__(self) -> str:
        return f"remark at frame {self.frame}"

    def get_absolute_url(self) -> str:
        return f"{reverse('look:look', args=[self.attempt_id])}?frame={self.frame}"

    @property
    def place(self) -> Any:
        """Return where it stands, as the history names it."""
        return self.attempt.place
