"""Finding titles on the Shelf: by words, by verdict, in an order."""

from typing import Any

from django import forms
from django.db.models import Exists, Max, OuterRef, Q

from .models import Attempt, Title, TitleQuerySet

VERDICTS = ("lost", "bent", "unproven", "kept")
NAME, NEWEST = "name", "newest"
MOST_WORDS = 6


class ShelfForm(forms.Form):
    """What is looked for."""

    q = forms.CharField(required=False, max_length=120)
    verdict = forms.ChoiceField(required=False, choices=[(one, one) for one in VERDICTS])
    sort = forms.ChoiceField(required=False, choices=[(NAME, "by name"), (NEWEST, "newest first")])


def found(titles: TitleQuerySet, form: ShelfForm) -> TitleQuerySet:
    """Return the titles that a form asks for; all of them where it asks for nothing sensible."""
    form.is_valid()
    data: dict[str, Any] = form.cleaned_data
    for word in str(data.get("q") or "").split()[:MOST_WORDS]:
        titles = titles.filter(Exists(_with_word(word)))
    if data.get("verdict"):
        titles = titles.filter(Exists(_latest_is(data["verdict"])))
    if data.get("sort") == NEWEST:
        newest = Max("deliveries__attempts__reel__added_at")
        titles = titles.annotate(newest=newest).order_by("-newest", "name")
    return titles


def _with_word(word: str) -> Any:
    """Return the same title where a word stands in its names, files, or what broke."""
    places = (
        *("name", "note", "master__path", "deliveries__name", "deliveries__attempts__reel__path"),
        "deliveries__attempts__judgement__broken",
    )
    anywhere = Q()
    for place in places:
        anywhere |= Q(**{f"{place}__icontains": word})
    return Title.objects.filter(anywhere, pk=OuterRef("pk"))


def _latest_is(verdict: str) -> Any:
    """Return attempts of a title that have a verdict and are their delivery's newest."""
    newer = Attempt.objects.filter(
        delivery=OuterRef("delivery"), number__gt=OuterRef("number"), binned_at=None
    )
    return Attempt.objects.filter(
        ~Exists(newer),
        delivery__title=OuterRef("pk"),
        delivery__binned_at=None,
        binned_at=None,
        judgement__overall=verdict,
    )


SEEN, MOST_SEEN = "seen_attempts", 6


def note_seen(session: Any, attempt: Attempt) -> None:
    """Remember that an attempt was looked at, the latest first."""
    before = [number for number in session.get(SEEN, []) if number != attempt.pk]
    if [attempt.pk, *before][:MOST_SEEN] != session.get(SEEN):
        session[SEEN] = [attempt.pk, *before][:MOST_SEEN]


def seen(session: Any, user: Any) -> list[Attempt]:
    """Return the attempts that were looked at last, as far as they still may be."""
    numbers = session.get(SEEN, [])
    rows = {
        one.pk: one
        for one in Attempt.objects.visible_to(user).with_context().filter(pk__in=numbers)
    }
    return [rows[number] for number in numbers if number in rows]
