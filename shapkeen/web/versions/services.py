"""Keeping recipes, and saying what they make."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import IntegrityError, transaction

from ...core.cured.versions import (
    Order,
    Recipe,
    name_of,
    order_version,
    recipe_from_fields,
    recipe_from_json,
    recipe_of_plan,
    recipe_to_json,
)
from ...core.errors import UsageError
from ...core.promised.specification import Specification, specification_from_json
from ...core.reported.declared import declaration_from_object
from ..library.models import Delivery, Title, Viewer
from ..plan import services as plans
from ..plan import specifications
from ..work import services as work
from ..work.models import Job
from .models import KeptRecipe, MadeVersion
from .words import recipe_words

WORK = "make"


@dataclass(frozen=True, slots=True)
class Row:
    """A recipe as the page lists it: what it makes, its next file's name, and its last version.

    refusal: why it cannot be made of the master as it is now; empty where it can.
    """

    kept: KeptRecipe
    words: str
    file_name: str
    refusal: str
    last: MadeVersion | None
    job: Job | None

    @property
    def is_running(self) -> bool:
        """Return whether a version of it is being made or waits to be."""
        return self.job is not None and not self.job.is_over

    @property
    def is_open(self) -> bool:
        """Return whether something of it will change by itself: it is made, or being judged."""
        made = self.last is not None and self.last.attempt is not None
        return self.is_running or (made and self.last is not None and self.last.judged is None)


def specification_of(recipe: Recipe) -> Specification | None:
    """Return the specification that a recipe names; raises UsageError where there is none."""
    if not recipe.specification:
        return None
    found = specifications.find(recipe.specification)
    if found is None:
        raise UsageError(
            f"There is no specification {recipe.specification}: import it, or name another.",
            code="bad-recipe",
            where="specification",
        )
    return found


def order_of(title: Title, recipe: Recipe) -> Order:
    """Return a recipe settled for a title's master; raises UsageError where it cannot be made."""
    master = declaration_from_object(title.master.declaration)
    return order_version(master, recipe, specification=specification_of(recipe))


def keep_recipe(title: Title, text: str, *, by: Viewer) -> KeptRecipe:
    """Keep a recipe as the next version of its name; the same text again is the same recipe.

    Raises UsageError where it is none, or cannot be made of the title's master.
    """
    recipe = recipe_from_json(text)
    order_of(title, recipe)
    told = recipe_to_json(recipe)
    last = title.recipes.filter(name=recipe.name).order_by("-version").first()
    if last is not None and last.text == told:
        return last
    try:
        with transaction.atomic():
            return KeptRecipe.objects.create(
                title=title,
                name=recipe.name,
                version=last.version + 1 if last else 1,
                text=told,
                kept_by=by if by.is_authenticated else None,  # type: ignore[misc]
            )
    except IntegrityError as error:
        raise UsageError(
            f"{recipe.name} was changed by someone else this moment. Look at that first.",
            code="recipe-changed",
            where="name",
        ) from error


FIELDS = {
    "coding.codec": "coding",
    "coding.profile": "coding",
    "coding.crf": "quality",
    "coding.bit_rate": "bit_rate",
    "coding.passes": "passes",
    "coding.bit_depth": "coding",
    "promise/raster": "size",
    "traits/raster": "size",
    "promise/transfer": "light",
    "promise/stereo": "stereo",
    "in": "first",
    "out": "last",
    "in, out": "first",
    "burn_in": "timecode",
    "burn_in.text": "burnt_text",
    "sound.codec": "sound",
    "sound.loudness_lufs": "loudness",
}
"""Place of a fault in a recipe → field of the form."""


def keep_filled(title: Title, fields: dict[str, str], *, by: Viewer) -> KeptRecipe:
    """Keep a recipe that was filled in field by field; raises UsageError, where: the field."""
    master = declaration_from_object(title.master.declaration)
    try:
        subject = plans.subject_of_title(title)
        made = recipe_from_fields(fields, master, subject.rate)
        return keep_recipe(title, json.dumps(made), by=by)
    except UsageError as error:
        error.where = FIELDS.get(error.where, error.where)
        raise


def keep_plan_as_recipe(delivery: Delivery, *, by: Viewer) -> KeptRecipe:
    """Make a recipe of a delivery's kept plan; raises UsageError where it cannot be made here."""
    title, kept = delivery.title, delivery.kept_plan
    spec = specification_from_json(kept.specification)
    plan = plans.plan_of(plans.subject_of_title(title), spec, kept.fields)
    master = declaration_from_object(title.master.declaration)
    made = recipe_of_plan(plan, master, name=delivery.name)
    return keep_recipe(title, recipe_to_json(made), by=by)


def newest(title: Title) -> list[KeptRecipe]:
    """Return the newest version of each recipe of a title, by name."""
    found = {kept.name: kept for kept in title.recipes.order_by("version")}
    return sorted(found.values(), key=lambda kept: kept.name.casefold())


def rows_of(title: Title) -> list[Row]:
    """Return every recipe in its newest version with what became of it."""
    recipes = newest(title)
    made = MadeVersion.objects.filter(recipe__title=title).select_related(
        "recipe", "attempt__judgement", "attempt__delivery"
    )
    last = {version.recipe.name: version for version in made.order_by("pk")}
    jobs = work.latest_jobs(WORK, [version.pk for version in last.values()])
    return [_row(title, kept, last.get(kept.name), jobs) for kept in recipes]


def free_name(recipe: Recipe) -> str:
    """Return the name that a version's file gets: its recipe's, numbered where that is taken."""
    name = Path(name_of(recipe))
    number, free = 1, name.name
    while (settings.CONF.upload_dir / free).exists() or _is_taken(free):
        number += 1
        free = f"{name.stem} {number}{name.suffix}"
    return free


def _is_taken(name: str) -> bool:
    return MadeVersion.objects.filter(file_name=name).exists()


def words_of(title: Title, recipe: Recipe) -> tuple[str, str]:
    """Return what a recipe makes of a title's master, or why it makes nothing: one is empty."""
    try:
        return recipe_words(order_of(title, recipe)), ""
    except UsageError as error:
        return "", error.text


def _row(title: Title, kept: KeptRecipe, last: MadeVersion | None, jobs: dict[int, Job]) -> Row:
    recipe = kept.recipe
    words, refusal = words_of(title, recipe)
    job = jobs.get(last.pk) if last else None
    is_open = last is not None and last.attempt_id is None and last.recipe_id == kept.pk
    file_name = last.file_name if last and is_open else free_name(recipe)
    return Row(kept, words, file_name, refusal, last, job)


def ask(title: Title, chosen: Sequence[int], *, by: Viewer) -> list[Job]:
    """Have versions made by chosen recipes, in their order; returns the jobs.

    All are checked first: where one cannot be made, none is begun, and UsageError says why. One
    that is being made already is not begun twice.
    """
    known = {kept.pk: kept for kept in newest(title)}
    recipes = [known[number] for number in chosen if number in known]
    if not recipes:
        raise UsageError("Choose at least one recipe.", code="nothing-chosen", where="recipe")
    for kept in recipes:
        try:
            order_of(title, kept.recipe)
        except UsageError as error:
            raise UsageError(
                f"{kept.name} cannot be made, so nothing was begun. {error.text}",
                code=error.code,
                where=error.where,
            ) from error
    with transaction.atomic():
        return [_begun(kept, by) for kept in recipes]


def _begun(kept: KeptRecipe, by: Viewer) -> Job:
    open_ones = kept.versions.filter(attempt=None)
    running = Job.objects.unfinished().of(WORK, open_ones.values_list("pk", flat=True)).first()
    if running is not None:
        return running
    # One that was stopped or failed goes on: what is finished of it was kept.
    asked = open_ones.order_by("-pk").first()
    asked = asked or MadeVersion(recipe=kept, file_name=free_name(kept.recipe))
    asked.asked_by = by if by.is_authenticated else None  # type: ignore[assignment]
    asked.save()
    return work.start(WORK, asked.pk)
