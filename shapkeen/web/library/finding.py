"""Finding titles on the Shelf: by words, by verdict, in an order."""

from datetime import timedelta
from typing import Any

from django import forms
from django.db.models import Exists, Max, OuterRef
from django.utils import timezone

from ..search.services import titles_with
from .models import Attempt, AttemptQuerySet, Delivery, Title, TitleQuerySet

VERDICTS = ("lost", "bent", "unproven", "kept")
NAME, NEWEST = "name", "newest"
MOST_WORDS = 6


SINCE = {"1": "today", "7": "in seven days", "30": "in thirty days"}
"""Days → in words: when an export came in."""
MOST_OFFERED = 60


class ShelfForm(forms.Form):
    """What is looked for. cause, delivery: as they are called. by: who brought the export in."""

    q = forms.CharField(required=False, max_length=120)
    verdict = forms.ChoiceField(required=False, choices=[(one, one) for one in VERDICTS])
    cause = forms.CharField(required=False, max_length=80)
    delivery = forms.CharField(required=False, max_length=80)
    by = forms.CharField(required=False, max_length=150)
    since = forms.ChoiceField(required=False, choices=list(SINCE.items()))
    sort = forms.ChoiceField(required=False, choices=[(NAME, "by name"), (NEWEST, "newest first")])


def found(titles: TitleQuerySet, form: ShelfForm) -> TitleQuerySet:
    """Return the titles that a form asks for; all of them where it asks for nothing sensible."""
    form.is_valid()
    data: dict[str, Any] = form.cleaned_data
    for word in str(data.get("q") or "").split()[:MOST_WORDS]:
        titles = titles.filter(pk__in=titles_with(word))
    wanted = _wanted(data)
    if wanted:
        # Not by asking each title: SQLite would look through all attempts for each of thousands.
        titles = titles.filter(pk__in=_newest().filter(**wanted).values("delivery__title"))
    if data.get("sort") == NEWEST:
        newest = Max("deliveries__attempts__reel__added_at")
        titles = titles.annotate(newest=newest).order_by("-newest", "name")
    return titles


def _wanted(data: dict[str, Any]) -> dict[str, Any]:
    """Return what one delivery's newest attempt must be like, all of it at once."""
    wanted: dict[str, Any] = {}
    if data.get("verdict"):
        wanted["judgement__overall"] = data["verdict"]
    if data.get("cause"):
        wanted["judgement__broken__icontains"] = data["cause"]
    if data.get("delivery"):
        wanted["delivery__name"] = data["delivery"]
    if data.get("by"):
        wanted["reel__added_by__username"] = data["by"]
    if data.get("since"):
        days = timedelta(days=int(data["since"]))
        wanted["reel__added_at__gte"] = timezone.now() - days
    return wanted


def _newer() -> Any:
    """Return the attempts of the same delivery that are newer."""
    return Attempt.objects.filter(
        delivery=OuterRef("delivery"), number__gt=OuterRef("number"), binned_at=None
    )


def _newest() -> AttemptQuerySet:
    """Return the newest attempt of each delivery."""
    present = Attempt.objects.filter(binned_at=None, delivery__binned_at=None)
    return present.filter(~Exists(_newer())).order_by()


def newest_found(user: Any, form: ShelfForm) -> AttemptQuerySet:
    """Return the newest attempt of each delivery that is as the form asks, in what it finds."""
    titles = found(Title.objects.visible_to(user), form).order_by()
    found_ones: AttemptQuerySet = _newest().filter(
        delivery__title__in=titles.values("pk"), **_wanted(form.cleaned_data)
    )
    return found_ones


def offered(user: Any, form: ShelfForm) -> dict[str, list[str]]:
    """Return the causes, the deliveries and the people that can be looked for, by name.

    With what a form asks for, though nothing is of that name any longer: a list that showed *any*
    would not say why nothing is found.
    """
    # Of thousands of judgements some tens are unlike, and only those are read.
    attempts = Attempt.objects.visible_to(user).exclude(judgement=None).order_by()
    broken = attempts.values_list("judgement__broken", flat=True).distinct()
    names = Delivery.objects.visible_to(user).values_list("name", flat=True).distinct()
    brought = attempts.exclude(reel__added_by=None)
    people = brought.values_list("reel__added_by__username", flat=True).distinct()
    there = {
        "cause": {one for told in broken for one in told},
        "delivery": set(names),
        "by": set(people),
    }
    listed = {}
    for name, known in there.items():
        asked = {form.cleaned_data.get(name)} - {"", None}
        listed[name] = sorted({*sorted(known)[:MOST_OFFERED], *asked})
    return {"causes": listed["cause"], "delivery_names": listed["delivery"], "people": listed["by"]}
