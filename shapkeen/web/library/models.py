"""Titles, reels (files), promises, deliveries and their attempts."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any, ClassVar

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils import timezone

from ...core.declared import fingerprint
from ...core.errors import CoreError
from ...core.promised import Promise, promise_digest, promise_from_layers, promise_from_master
from ...core.reported.declared import declaration_from_object
from ..history.services import Place
from ..people.guests import Guest
from ..people.rights import Viewer, account_of, titles_of
from . import roots

__all__ = ["Attempt", "Delivery", "Reel", "Title", "Viewer"]


class Binned(models.Model):
    """What can be put into the bin: it is seen nowhere else then. null: it is not there."""

    binned_at = models.DateTimeField(null=True, db_index=True)
    binned_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        abstract = True

    def put_away(self, by: Any) -> None:
        """Save that it lies in the bin."""
        self.binned_at, self.binned_by = timezone.now(), by
        self.save(update_fields=["binned_at", "binned_by"])

    def take_back(self) -> None:
        """Save that it lies in the bin no longer."""
        self.binned_at = self.binned_by = None
        self.save(update_fields=["binned_at", "binned_by"])


class ReelQuerySet(models.QuerySet["Reel"]):
    def visible_to(self, user: Viewer) -> ReelQuerySet:
        """Return the files of titles and attempts that a user may see."""
        titles = Title.objects.visible_to(user).values("pk")
        attempts = Attempt.objects.in_titles(titles).values("pk")
        return self.filter(models.Q(title__in=titles) | models.Q(attempt__in=attempts))

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
        """Return the titles that a user may see; what lies in the bin is not among them."""
        seen, present = titles_of(user), self.filter(binned_at=None)
        return present if seen is None else present.filter(pk__in=seen)

    def with_deliveries(self) -> TitleQuerySet:
        """Return titles with all that lists show; of judgements the columns, not the findings."""
        deliveries = models.Prefetch("deliveries", queryset=Delivery.objects.listed())
        return self.select_related("master__digest").prefetch_related(deliveries)

    def listed(self) -> TitleQuerySet:
        """Return titles for a list, without what their masters declare."""
        return self.with_deliveries().defer("master__declaration")


class Title(Binned):
    """A production being finished."""

    name = models.CharField(max_length=120)
    note = models.CharField(max_length=200, blank=True)
    master = models.OneToOneField(Reel, on_delete=models.PROTECT, related_name="title")
    created_at = models.DateTimeField(auto_now_add=True)
    answers_text = models.TextField(blank=True)
    """What someone said of a master that does not say it itself, as a promise file."""
    answers_at = models.DateTimeField(null=True)
    answers_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    promise_text = models.TextField(blank=True)
    """What every delivery of it must keep beyond the master, as a promise file."""
    promise_at = models.DateTimeField(null=True)
    promise_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    objects = TitleQuerySet.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["name"], condition=models.Q(binned_at=None), name="one_title_of_a_name"
            )
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("library:title", args=[self.pk])

    @property
    def place(self) -> Place:
        """Return it as the history names it."""
        return Place(str(self), self.pk)

    @property
    def answers_origin(self) -> str:
        """Return who said it, where its values are shown."""
        return f"said of the silent master by {self.answers_by or 'someone'}"

    @property
    def promise_origin(self) -> str:
        """Return where its own promise comes from, where its values are shown."""
        return f"title {self.name}"

    def layers_before(self) -> list[tuple[str, str]]:
        """Return what is promised before its own promise: texts with their origins."""
        return [(self.answers_text, self.answers_origin)]

    @property
    def file_path(self) -> str:
        """Return the path of its master within its root."""
        return self.master.path


class DeliveryQuerySet(models.QuerySet["Delivery"]):
    def visible_to(self, user: Viewer) -> DeliveryQuerySet:
        """Return the deliveries that a user may see."""
        titles = Title.objects.visible_to(user).values("pk")
        return self.filter(binned_at=None, title__in=titles)

    def listed(self) -> DeliveryQuerySet:
        """Return deliveries with whether they keep a plan, but not the plan itself.

        Their attempts are in `listed_attempts`, in order: a list, since Django makes a query set
        for each of fifty deliveries otherwise, and asks nothing of it.
        """
        attempts = models.Prefetch("attempts", Attempt.objects.listed(), "listed_attempts")
        present = self.filter(binned_at=None).select_related("kept_plan")
        return present.prefetch_related(attempts).defer(
            "promise_text", "kept_plan__specification", "kept_plan__fields", "kept_plan__sheet"
        )


class Delivery(Binned):
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
            models.UniqueConstraint(
                fields=["title", "name"],
                condition=models.Q(binned_at=None),
                name="one_delivery_of_a_name",
            )
        ]

    def __str__(self) -> str:
        return f"{self.title} › {self.name}"

    def get_absolute_url(self) -> str:
        return reverse("library:delivery-promise", args=[self.pk])

    @property
    def place(self) -> Place:
        """Return it as the history names it."""
        return Place(str(self), self.title_id, self.pk)

    def overrides(self) -> Promise | None:
        """Return the delivery's own promise, None where it asks for nothing of its own."""
        return promise_from_layers(self.promise_layers())

    @property
    def promise_origin(self) -> str:
        """Return where its own promise comes from, where its values are shown."""
        return f"delivery {self.name}"

    def layers_before(self, *, of_title: str | None = None) -> list[tuple[str, str]]:
        """Return what is promised before its own promise. of_title: in place of the title's."""
        own = self.title.promise_text if of_title is None else of_title
        return [*self.title.layers_before(), (own, self.title.promise_origin)]

    def promise_layers(self, *, of_title: str | None = None) -> list[tuple[str, str]]:
        """Return what is promised beside the master's own words: texts with their origins."""
        return [*self.layers_before(of_title=of_title), (self.promise_text, self.promise_origin)]

    def effective_promise(self) -> Promise:
        """Return all that is promised; raises UsageError where the master cannot keep it."""
        master = declaration_from_object(self.title.master.declaration)
        return promise_from_master(master, overrides=self.overrides())

    def set_promise(self, text: str, *, by: Any, at: datetime) -> None:
        """Save what the delivery asks for, who asked and when, and its digest."""
        self.promise_text, self.promise_at = text, at
        self.promise_by = account_of(by)
        self.promise_digest = promise_digest(self.effective_promise())
        fields = ["promise_text", "promise_at", "promise_by", "promise_digest"]
        self.save(update_fields=fields)

    def refresh_digest(self) -> None:
        """Save the digest anew: the master declares something else than before."""
        self.promise_digest = promise_digest(self.effective_promise())
        self.save(update_fields=["promise_digest"])


STATES = "master_size", "master_changed_ns", "export_size", "export_changed_ns"
"""Columns of a judgement: of which states of both files it is."""


class AttemptQuerySet(models.QuerySet["Attempt"]):
    def visible_to(self, user: Viewer) -> AttemptQuerySet:
        """Return the attempts that a user may see: a guest just one of them."""
        if isinstance(user, Guest):
            whole = Title.objects.filter(binned_at=None).values("pk")
            return self.in_titles(whole).filter(pk=user.attempt_id)
        return self.in_titles(Title.objects.visible_to(user).values("pk"))

    def in_titles(self, titles: Any) -> AttemptQuerySet:
        """Return the attempts of these titles that do not lie in the bin."""
        return self.filter(binned_at=None, delivery__binned_at=None, delivery__title__in=titles)

    def named(self) -> AttemptQuerySet:
        """Return attempts with what names them and their verdicts, and no more."""
        return (
            self.select_related("delivery__title", "judgement")
            .only("number", "delivery__name", "delivery__title__name", "judgement__overall")
            .order_by()
        )

    def with_context(self) -> AttemptQuerySet:
        return self.select_related(
            "delivery__title__master",
            "delivery__kept_plan",
            "reel",
            "judgement__promise_by",
        )

    def listed(self) -> AttemptQuerySet:
        """Return attempts with what lists show of their judgements and files.

        Their signatures are in `listed_signatures`, the one that counts first.
        """
        present = self.filter(binned_at=None).select_related("reel__digest", "judgement")
        signatures = models.Prefetch("signatures", to_attr="listed_signatures")
        state = "size_bytes", "changed_ns"
        judged = "overall", "broken", "promise_digest", "form", *STATES
        return present.prefetch_related(signatures).only(
            *("number", "delivery", "binned_at", "reel__digest__sha256"),
            *(f"reel__{name}" for name in state),
            *(f"judgement__{name}" for name in judged),
        )


class Attempt(Binned):
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
    def place(self) -> Place:
        """Return it as the history names it."""
        return Place(str(self), self.delivery.title_id, self.delivery_id, self.pk)

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
